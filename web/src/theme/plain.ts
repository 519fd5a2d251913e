import type { SystemStyleObject } from '@chakra-ui/react'

/*
 * What is drawn anew with every key, or stands there by the hundred, is made of plain elements: a component with style
 * properties costs more than the element that it draws. Their looks stand here, once, in the same tokens.
 */

/** Bars of gold are solid; those of evidence are a rule with a tick at each end and the letters in a gap. */
const stave: SystemStyleObject = {
  // As its words were measured, also within a table of figures.
  fontVariantNumeric: 'normal',
  display: 'flex',
  flexDirection: 'column',
  '& .spoken': { position: 'absolute', width: '1px', height: '1px', overflow: 'hidden', clipPath: 'inset(50%)', whiteSpace: 'nowrap' },
  '& .system': { display: 'flex' },
  '& [aria-hidden] > .system': { mb: '3.5' },
  // Lines of a sentence with nothing beneath them stand as close as in a book.
  '& [aria-hidden] > .system.bare:not(:last-child)': { mb: '0' },
  '& .labels': {
    width: 'laneLabel',
    flexShrink: '0',
    pt: 'textLine',
    pr: '2.5',
    fontSize: 'tiny',
    lineHeight: 'lane',
    textAlign: 'right',
    color: 'second',
  },
  '& > .system > .labels': { pt: '0' },
  '& .labels > div': { overflow: 'hidden', textOverflow: 'ellipsis', whiteSpace: 'nowrap' },
  '& .labels > .ground': { color: 'gold', fontWeight: 'bold' },
  '& .field': { position: 'relative', flex: '1', minWidth: '0' },
  '& .words': {
    position: 'relative',
    zIndex: '2',
    height: 'textLine',
    fontFamily: 'text',
    fontSize: 'stave',
    lineHeight: 'textLine',
  },
  '& .words.selectable': { cursor: 'text', userSelect: 'none' },
  '& .words > span': { position: 'absolute', whiteSpace: 'pre' },
  '& .lane': { position: 'relative', boxSizing: 'border-box', borderBottom: '1px solid', borderColor: 'hairline' },
  '& .lane.ground': { bg: 'goldGround' },
  '& [data-differs]': {
    position: 'absolute',
    zIndex: '1',
    top: '0.5',
    bottom: '0',
    mx: '-1',
    px: '1',
    boxSizing: 'content-box',
    borderRadius: 'sm',
    bg: 'badGround',
    pointerEvents: 'none',
  },
  '& [data-selection], & [data-cursor]': {
    position: 'absolute',
    top: '0.5',
    height: 'marked',
    mx: '-0.5',
    px: '0.5',
    boxSizing: 'content-box',
    borderBottom: '2px solid',
    borderColor: 'ink',
  },
  '& [data-selection]': { bg: 'chosen' },
  '& [data-cursor]': { borderColor: 'action' },
  '& .bar': {
    position: 'absolute',
    zIndex: '2',
    display: 'flex',
    alignItems: 'center',
    justifyContent: 'center',
    height: '3',
    fontSize: 'tiny',
    fontWeight: 'bold',
    lineHeight: '1',
  },
  '& .bar.solid': { color: 'knockout', borderRadius: 'xs' },
  '& .bar.ghost': { border: '1px dashed', borderRadius: 'xs', boxSizing: 'border-box' },
  '& .bar.solid.openLeft, & .bar.ghost.openLeft': { borderLeftRadius: '0', borderLeftWidth: '0' },
  '& .bar.solid.openRight, & .bar.ghost.openRight': { borderRightRadius: '0', borderRightWidth: '0' },
  '& .tick': { position: 'absolute', top: '-4px', bottom: '-4px', width: '8px', cursor: 'ew-resize' },
  '& .tick.left': { left: '-4px' },
  '& .tick.right': { right: '-4px' },
  '& .rule': { flex: '1', height: '10px', position: 'relative', borderColor: 'currentcolor' },
  '& .rule::before': { content: '""', position: 'absolute', insetX: '0', top: '4px', borderTop: '1.5px solid' },
  '& .bar.doubtful > .rule::before, & .bar.removed > .rule::before, & .bar.beaten > .rule::before': { borderTopStyle: 'dashed' },
  '& .bar:not(.openLeft) > .rule:first-of-type': { borderLeft: '2px solid' },
  '& .bar:not(.openRight) > .rule:last-of-type': { borderRight: '2px solid' },
  '& .bar > span': { px: '0.5', whiteSpace: 'nowrap' },
  '& .bar.removed': { textDecoration: 'line-through' },
  '& .bar.beaten': { opacity: '0.55', fontWeight: 'normal' },
  // Where the reader's system sets the colours, grounds vanish: bars keep theirs, and what was a ground gets an outline.
  '@media (forced-colors: active)': {
    '& .bar.solid': { forcedColorAdjust: 'none' },
    '& [data-differs]': { outline: '1px dashed CanvasText' },
    '& [data-selection]': { outline: '2px solid Highlight' },
  },
  '& [data-hairline]': {
    position: 'absolute',
    zIndex: '1',
    top: '8',
    bottom: '0',
    borderLeft: '1px solid',
    borderColor: 'action',
    pointerEvents: 'none',
  },
}

/** Three columns, as layout.tsx sets them up. */
const columns: SystemStyleObject = {
  display: 'grid',
  height: 'full',
  minHeight: '0',
  '& > nav': { display: 'flex', flexDirection: 'column', minHeight: '0', borderRight: '1px solid', borderColor: 'hairline', bg: 'ground' },
  '& > main': { minHeight: '0', overflow: 'auto', bg: 'paper', outline: 'none' },
  // A narrow window, or a page enlarged to 200 %: one beneath the other, in one scroll.
  '@media (max-width: 56em)': {
    display: 'block',
    overflow: 'auto',
    '& > nav': { borderRight: '0', borderBottom: '1px solid' },
    '& > nav > .rows': { flex: 'none', height: '12rem' },
    '& > main, & > aside': { overflow: 'visible' },
  },
  '& > aside': { minHeight: '0', overflow: 'auto', borderLeft: '1px solid', borderColor: 'hairline', bg: 'ground', p: '3.5' },
}

/** Rows of a list that draws only what is seen. */
const rows: SystemStyleObject = {
  flex: '1',
  minHeight: '0',
  overflowY: 'auto',
  '&[aria-busy=true]': { opacity: '0.5' },
  '& [role=option]': { position: 'absolute', insetX: '0', top: '0', borderLeft: '3px solid transparent', cursor: 'pointer' },
  '& [role=option]:hover': { bg: 'chosen' },
  '& [role=option][aria-selected=true]': { bg: 'paper', borderLeftColor: 'action' },
  '@media (forced-colors: active)': {
    '& [role=option]': { borderLeftColor: 'Canvas' },
    '& [role=option][aria-selected=true]': { outline: '2px solid Highlight', outlineOffset: '-2px' },
  },
}

/** A sentence in the queue: its state, its words, and what is to be said of it. */
const queueRow: SystemStyleObject = {
  display: 'flex',
  alignItems: 'center',
  gap: '2',
  px: '2.5',
  height: 'row',
  '& > .words': { flex: '1', minWidth: '0', overflow: 'hidden', textOverflow: 'ellipsis', whiteSpace: 'nowrap' },
  '& > .words > b': { fontSize: 'tiny', color: 'second', mr: '1.5' },
  '& > .said': { fontSize: 'tiny', color: 'second' },
  '& > .said.bad': { color: 'bad' },
}

const stateSign: SystemStyleObject = {
  flexShrink: '0',
  '&.untouched': { color: 'third' },
  '&.draft': { color: 'ink' },
  '&.signed': { color: 'goldMark' },
}

/** Evidence at the cursor, with what can be done with it. */
const evidence: SystemStyleObject = {
  '& .one': { display: 'grid', gridTemplateColumns: '1fr auto auto', alignItems: 'baseline', columnGap: '1', mb: '1.5' },
  '& .one > .quiet': { gridColumn: '1 / -1' },
  '& .quiet': { color: 'second', fontSize: 'small' },
  '& .one button': { color: 'action', px: '1', borderRadius: 'sm', cursor: 'pointer' },
  '& .one > button:hover': { bg: 'chosen' },
  '& .one button.link': { px: '0', textDecoration: 'underline', textUnderlineOffset: '3px', textDecorationColor: 'hairline' },
}

/** A page of the guide, made from its text. */
const guide: SystemStyleObject = {
  fontFamily: 'text',
  fontSize: 'context',
  maxWidth: '3xl',
  mx: 'auto',
  '& h2': { fontFamily: 'heading', fontSize: 'head', mt: '5', mb: '2' },
  '& p, & ul, & table, & pre': { mb: '3' },
  '& ul': { ps: '5', listStyle: 'disc' },
  '& a': { color: 'action', textDecoration: 'underline', textUnderlineOffset: '3px' },
  '& code': { fontFamily: 'mono', fontSize: 'ui', bg: 'ground', px: '1' },
  '& pre': { bg: 'ground', p: '3', overflow: 'auto' },
  '& img': { maxWidth: 'full', borderWidth: '1px', borderColor: 'hairline', my: '3' },
  '& table': { borderCollapse: 'collapse', fontFamily: 'body', fontSize: 'ui' },
  '& td, & th': { borderBottom: '1px solid', borderColor: 'hairline', px: '2', py: '1', textAlign: 'start', verticalAlign: 'top' },
}

const heading: SystemStyleObject = {
  display: 'flex',
  justifyContent: 'space-between',
  alignItems: 'baseline',
  gap: '3',
  mb: '1.5',
  '& > h2': { fontSize: 'tiny', fontWeight: 'bold', color: 'second' },
}

const section: SystemStyleObject = { borderTop: '1px solid', borderColor: 'hairline', mt: '4', pt: '3.5' }

/** The sentences around the open one. */
const context: SystemStyleObject = {
  fontFamily: 'text',
  fontSize: 'context',
  color: 'third',
  whiteSpace: 'pre-line',
  ml: 'laneLabel',
  mb: '3',
  maxWidth: '3xl',
}

/** A key's cap. */
const cap: SystemStyleObject = {
  fontFamily: 'mono',
  fontSize: 'tiny',
  px: '1.5',
  borderWidth: '1px',
  borderColor: 'hairline',
  borderRadius: 'sm',
  bg: 'raised',
  color: 'ink',
  minW: '4.5',
  textAlign: 'center',
  display: 'inline-block',
  '&.dark': { bg: 'transparent', borderColor: 'second', color: 'onBar' },
}

/** A key and what it does. */
const keyLine: SystemStyleObject = {
  display: 'flex',
  alignItems: 'center',
  gap: '1.5',
  textAlign: 'left',
  '&.dark': { flexShrink: '0' },
  '& > span': { display: 'flex', gap: '0.5' },
  '&:is(button)': { cursor: 'pointer' },
  '&:is(button):hover': { textDecoration: 'underline' },
}

/** A place in the bar, with its figure beneath; a dot says that it is out of date. */
const placeTab: SystemStyleObject = {
  position: 'relative',
  display: 'block',
  px: { base: '2', xl: '3' },
  pt: '2.5',
  color: 'onBar',
  '& > b': { display: 'block', fontSize: 'ui', fontWeight: 'bold' },
  // Ten places and more have to fit: where the window is narrow a figure is cut, and told whole by its tooltip.
  '& > span': {
    display: 'block',
    fontSize: 'tiny',
    color: 'onBarSecond',
    whiteSpace: 'nowrap',
    overflow: 'hidden',
    textOverflow: 'ellipsis',
    maxW: { base: '14', xl: 'none' },
  },
  '& > i': { position: 'absolute', top: '2.5', right: '2', w: '1.5', h: '1.5', borderRadius: 'full', bg: 'amber' },
  '&:hover': { bg: 'barHover' },
  '&.here': { bg: 'paper', color: 'ink' },
  '&.here > span': { color: 'second' },
  '&.here > i': { bg: 'gold' },
  '@media (forced-colors: active)': { '&.here': { outline: '2px solid Highlight', outlineOffset: '-2px' } },
}

/** The types with the keys that mark them. */
const typeKeys: SystemStyleObject = {
  display: 'flex',
  flexDirection: 'column',
  '& > button': {
    display: 'grid',
    gridTemplateColumns: 'auto var(--chakra-sizes-10) 1fr auto',
    gap: '2',
    alignItems: 'center',
    textAlign: 'left',
    height: '6',
    cursor: 'pointer',
  },
  '& > button:hover': { bg: 'chosen' },
  '& .count': { color: 'second', fontVariantNumeric: 'tabular-nums' },
}

/** By class, for the sheet. */
export const plain: Record<string, SystemStyleObject> = {
  '.stave': stave,
  '.columns': columns,
  '.rows': rows,
  '.unfetched': { px: '3', py: '2', fontSize: 'small', color: 'bad' },
  '.queueRow': queueRow,
  '.stateSign': stateSign,
  '.evidenceHere': evidence,
  '.guide': guide,
  '.heading': heading,
  '.section': section,
  '.context': context,
  '.cap': cap,
  '.keyLine': keyLine,
  '.placeTab': placeTab,
  '.typeKeys': typeKeys,
}
