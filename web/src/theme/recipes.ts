import { defineRecipe, defineSlotRecipe } from '@chakra-ui/react'

/*
 * How each component of the library looks here, once. A screen says what it is: `solid` is the act that a screen is for,
 * `ghost` any other, `outline` one that takes something away, `plain` a figure or name that opens what lies behind it.
 */

const disabled = { opacity: '0.5', cursor: 'not-allowed' } as const

/** What is typed in or chosen from. */
const field = {
  w: 'full',
  minW: '0',
  h: '7',
  px: '2',
  bg: 'raised',
  borderWidth: '1px',
  borderColor: 'edge',
  borderRadius: 'sm',
  fontSize: 'ui',
  textAlign: 'start',
  appearance: 'none',
  _disabled: disabled,
  _invalid: { borderColor: 'bad' },
} as const

/** Beneath a field or a group of them. */
const note = { fontSize: 'tiny', mt: '0.5', fontWeight: 'normal' } as const

const panel = { bg: 'paper', borderWidth: '1px', borderColor: 'hairline', borderRadius: 'sm' } as const

export const recipes = {
  button: defineRecipe({
    className: 'chakra-button',
    base: {
      display: 'inline-flex',
      alignItems: 'center',
      justifyContent: 'center',
      gap: '1',
      flexShrink: '0',
      position: 'relative',
      isolation: 'isolate',
      appearance: 'none',
      userSelect: 'none',
      cursor: 'pointer',
      whiteSpace: 'nowrap',
      borderWidth: '1px',
      borderColor: 'transparent',
      borderRadius: 'sm',
      fontSize: 'ui',
      fontWeight: 'medium',
      lineHeight: '1.2',
      h: '7',
      minW: '8',
      px: '2.5',
      _disabled: disabled,
    },
    variants: {
      variant: {
        solid: { bg: 'action', color: 'onAction', px: '3' },
        ghost: { color: 'action', px: '2', _hover: { bg: 'chosen' } },
        outline: { color: 'bad', borderColor: 'bad' },
        plain: {
          h: 'auto',
          minW: '0',
          p: '0',
          borderWidth: '0',
          fontSize: 'inherit',
          fontWeight: 'inherit',
          lineHeight: 'inherit',
          color: 'action',
          textDecoration: 'underline',
          textUnderlineOffset: '3px',
          textDecorationColor: 'hairline',
        },
      },
    },
    defaultVariants: { variant: 'solid' },
  }),
  input: defineRecipe({ className: 'chakra-input', base: field }),
  textarea: defineRecipe({ className: 'chakra-textarea', base: { ...field, h: 'auto', py: '1.5' } }),
  spinner: defineRecipe({
    className: 'chakra-spinner',
    base: { display: 'inline-block', boxSize: '3', borderWidth: '2px', borderColor: 'currentColor', borderBottomColor: 'transparent', borderRadius: 'full', animation: 'spin 0.8s linear infinite' },
  }),
}

export const slotRecipes = {
  field: defineSlotRecipe({
    slots: ['root', 'label', 'helperText', 'errorText', 'requiredIndicator'],
    className: 'chakra-field',
    base: {
      root: { w: 'full', mb: '2.5', position: 'relative' },
      label: { fontSize: 'small', color: 'second' },
      helperText: { ...note, display: 'block', color: 'second' },
      errorText: { ...note, display: 'block', color: 'bad' },
    },
  }),
  fieldset: defineSlotRecipe({
    slots: ['root', 'content', 'legend', 'helperText', 'errorText'],
    className: 'chakra-fieldset',
    base: {
      root: { mb: '2.5', w: 'full' },
      content: { display: 'flex', flexWrap: 'wrap', columnGap: '4' },
      legend: { fontSize: 'small', color: 'second', mb: '1' },
      helperText: { ...note, display: 'block', color: 'second' },
      errorText: { ...note, display: 'block', color: 'bad' },
    },
  }),
  checkbox: defineSlotRecipe({
    slots: ['root', 'control', 'label', 'indicator', 'group'],
    className: 'chakra-checkbox',
    base: {
      root: { display: 'inline-flex', alignItems: 'center', gap: '1.5', position: 'relative', mb: '1.5', minH: '6' },
      control: {
        display: 'inline-flex',
        flexShrink: '0',
        boxSize: '3.5',
        bg: 'raised',
        borderWidth: '1px',
        borderColor: 'edge',
        borderRadius: 'xs',
        color: 'onAction',
        _icon: { boxSize: 'full' },
        _checked: { bg: 'action', borderColor: 'action' },
        _disabled: disabled,
        _focusVisible: { outline: '2px solid', outlineColor: 'action', outlineOffset: '1px' },
        '@media (forced-colors: active)': { forcedColorAdjust: 'none' },
      },
      label: { userSelect: 'none', _disabled: { opacity: '0.5' } },
    },
  }),
  nativeSelect: defineSlotRecipe({
    slots: ['root', 'field', 'indicator'],
    className: 'chakra-native-select',
    base: {
      root: { display: 'flex', w: 'full', h: 'fit-content', position: 'relative' },
      field: { ...field, pe: '6', lineHeight: 'normal', '& > option, & > optgroup': { bg: 'raised' } },
      indicator: { position: 'absolute', top: '0', insetEnd: '1.5', h: 'full', display: 'inline-flex', alignItems: 'center', pointerEvents: 'none', color: 'second', _icon: { boxSize: '1em' }, _disabled: { opacity: '0.5' } },
    },
  }),
  // Rows between hairlines on the page's own ground.
  table: defineSlotRecipe({
    slots: ['root', 'header', 'body', 'row', 'columnHeader', 'cell', 'footer', 'caption'],
    className: 'chakra-table',
    base: {
      root: { w: 'full', fontSize: 'ui', fontVariantNumeric: 'lining-nums tabular-nums', borderCollapse: 'collapse', textAlign: 'start', verticalAlign: 'top' },
      columnHeader: { px: '2', py: '2', textAlign: 'start', color: 'second', fontSize: 'small', fontWeight: 'normal', borderBottomWidth: '1px', borderColor: 'hairline' },
      cell: { px: '2', py: '2', textAlign: 'start', borderBottomWidth: '1px', borderColor: 'hairline' },
    },
  }),
  dialog: defineSlotRecipe({
    slots: ['trigger', 'backdrop', 'positioner', 'content', 'header', 'body', 'footer', 'title', 'description', 'closeTrigger'],
    className: 'chakra-dialog',
    base: {
      backdrop: { position: 'fixed', inset: '0', bg: 'veil', zIndex: 'calc({zIndex.popover} + var(--layer-index, 0) - 1)' },
      positioner: { position: 'fixed', inset: '0', display: 'flex', alignItems: 'center', justifyContent: 'center', overflow: 'hidden', zIndex: 'calc({zIndex.popover} + var(--layer-index, 0))' },
      content: { ...panel, display: 'flex', flexDirection: 'column', position: 'relative', w: 'full', maxH: 'calc(100% - 3rem)', outline: '0', fontSize: 'ui' },
      header: { px: '5', pt: '4', pb: '1' },
      title: { fontFamily: 'heading', fontSize: 'head' },
      body: {
        flex: '1',
        minH: '0',
        overflow: 'auto',
        px: '5',
        py: '2',
        // A window that is read has the focus from the start, for the keys that scroll: no frame around all of it.
        _focusVisible: { outline: 'none', boxShadow: 'inset 3px 0 0 {colors.action}', '@media (forced-colors: active)': { outline: '2px solid Highlight', outlineOffset: '-2px' } },
      },
      footer: { display: 'flex', alignItems: 'center', justifyContent: 'flex-end', gap: '2', px: '5', pt: '2', pb: '4' },
    },
    variants: { size: { md: { content: { maxW: 'dialog' } }, xl: { content: { maxW: '4xl' } } } },
    defaultVariants: { size: 'md' },
  }),
  menu: defineSlotRecipe({
    slots: ['content', 'item', 'itemText', 'itemIndicator', 'separator', 'positioner', 'trigger'],
    className: 'chakra-menu',
    base: {
      content: { ...panel, minW: '32', p: '1.5', maxH: 'var(--available-height)', overflowY: 'auto', outline: '0', zIndex: 'calc({zIndex.popover} + var(--layer-index, 0))' },
      item: { display: 'flex', alignItems: 'center', gap: '2', px: '2', py: '1.5', w: 'full', position: 'relative', cursor: 'pointer', userSelect: 'none', outline: '0', borderRadius: 'sm', _highlighted: { bg: 'chosen' }, _disabled: disabled, '&[data-type]': { ps: '8' } },
      itemIndicator: { position: 'absolute', insetStart: '2', top: '50%', transform: 'translateY(-50%)' },
      separator: { h: '1px', bg: 'hairline', my: '1', mx: '-1' },
    },
  }),
  progress: defineSlotRecipe({
    slots: ['root', 'label', 'track', 'range', 'valueText', 'view', 'circle', 'circleTrack', 'circleRange'],
    className: 'chakra-progress',
    base: {
      track: { h: '1', bg: 'chosen', overflow: 'hidden' },
      range: { h: 'full', bg: 'action', '@media (forced-colors: active)': { bg: 'Highlight', forcedColorAdjust: 'none' } },
    },
    variants: { variant: { outline: {}, subtle: { range: { bg: 'goldMark' } } } },
  }),
  emptyState: defineSlotRecipe({
    slots: ['root', 'content', 'indicator', 'title', 'description'],
    className: 'chakra-empty-state',
    base: {
      root: { p: '5', maxW: 'prose' },
      content: { display: 'flex', flexDirection: 'column', alignItems: 'flex-start', gap: '3' },
      title: { srOnly: true },
      description: { color: 'second' },
    },
  }),
  toast: defineSlotRecipe({
    slots: ['root', 'title', 'description', 'indicator', 'closeTrigger', 'actionTrigger', 'group'],
    className: 'chakra-toast',
    base: {
      root: {
        ...panel,
        bg: 'raised',
        display: 'flex',
        alignItems: 'baseline',
        gap: '3',
        px: '3',
        py: '2',
        w: 'md',
        translate: 'var(--x) var(--y)',
        scale: 'var(--scale)',
        zIndex: 'var(--z-index)',
        h: 'var(--height)',
        opacity: 'var(--opacity)',
        transition: 'translate 200ms, opacity 200ms',
        '&[data-type=error]': { borderColor: 'bad', color: 'bad' },
      },
      description: { flex: '1' },
      actionTrigger: { color: 'action', cursor: 'pointer', px: '1', fontWeight: 'bold' },
      closeTrigger: { color: 'action', cursor: 'pointer', px: '1' },
    },
  }),
  tooltip: defineSlotRecipe({
    slots: ['trigger', 'arrow', 'arrowTip', 'positioner', 'content'],
    className: 'chakra-tooltip',
    base: { content: { bg: 'bar', color: 'onBar', px: '2', py: '1', borderRadius: 'sm', fontSize: 'small', maxW: 'sm', zIndex: 'tooltip' } },
  }),
}
