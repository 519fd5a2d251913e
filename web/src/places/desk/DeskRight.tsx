import { Box } from '@chakra-ui/react'
import { useQuery } from '@tanstack/react-query'
import { Fragment, memo, useState } from 'react'

import { useProject } from '../../api/project'
import type { DeskSentenceShown, TypeShown } from '../../api/schema'
import { Heading, Section } from '../../parts/layout'
import { Cap, TypeCode } from '../../parts/signs'
import { shownCaps, useOwnKeys } from '../../parts/ownKeys'
import { useLatest } from '../../parts/useLatest'
import { number, score } from '../../parts/words'
import { type MarkedSpan, sameSpan } from './edits'
import { markLabel } from './deskKeys'
import type { Evidence } from './evidence'
import { LANES } from './lanes'
import { RuleWhy } from '../../stave/RuleWhy'
import { Weighed } from '../../stave/Weighed'
import { weighedQuery } from './queries'
import { Why } from './Why'

const LABELS = new Map(LANES)

interface DeskRightProps {
  types: readonly TypeShown[]
  sentence: DeskSentenceShown | undefined
  words: string
  /** Evidence at the cursor. */
  evidence: readonly Evidence[]
  isDown: (span: MarkedSpan) => boolean
  onMark: (type: string) => void
  onTake: (span: Evidence) => void
  onTurnDown: (span: Evidence) => void
}

/** What explains the sentence: the keys of the types, and what each source says at the cursor. */
export function DeskRight({ types, sentence, words, evidence, isDown, onMark, onTake, onTurnDown }: DeskRightProps) {
  const mark = useLatest(onMark)
  const take = useLatest(onTake)
  const turnDown = useLatest(onTurnDown)
  return (
    // A click here leaves the focus on the sentence, so that the next key goes there.
    <Box onMouseDown={(event) => event.preventDefault()}>
      <Heading side={<Box fontSize="tiny" color="second">gold spans</Box>}>Mark selection as</Heading>
      <TypeKeys types={types} onMark={mark} />
      {types.length === 0 && <Box color="second">There is no entity type yet; a lead adds one under Types.</Box>}
      <Section>
        <Heading>Evidence at the cursor</Heading>
        <Box fontWeight="bold" mb="1">
          {words}
        </Box>
        <EvidenceHere types={types} sentence={sentence} evidence={evidence} isDown={isDown} onTake={take} onTurnDown={turnDown} />
      </Section>
    </Box>
  )
}

/** A rule set it, or took it away. */
const ruled = (span: Evidence) => span.lane === 'rules' || span.taken !== ''

/** What is overruled comes last. */
const byWeight = (evidence: readonly Evidence[]) => [...evidence].sort((one, other) => Number(one.overruled !== '') - Number(other.overruled !== ''))

// Neither is drawn again by a key that changes nothing in it.

const EvidenceHere = memo(function EvidenceHere(props: Omit<DeskRightProps, 'words' | 'onMark'>) {
  const { types, sentence, evidence, isDown, onTake, onTurnDown } = props
  const [asked, setAsked] = useState(false)
  const hues = new Map(types.map((t) => [t.code, t.hue]))
  // Plain elements, styled once: they come anew with every move of the cursor.
  return (
    <div className="evidenceHere">
      {evidence.length === 0 && <div className="quiet">{sentence?.quiet ? 'Nothing is suggested in this text.' : 'No source finds anything here.'}</div>}
      {byWeight(evidence).map((span, k, all) => (
        <Fragment key={`${span.lane}-${span.start}-${span.end}-${span.type}`}>
          <div className="one">
            <div>
              {LABELS.get(span.lane)} <TypeCode code={span.type} hue={hues.get(span.type)} />
              {span.probability !== null && span.probability !== undefined && ` ${score(span.probability)} %`}
              {isDown(span) && ' · turned down'}
            </div>
            <button type="button" onClick={() => onTake(span)} aria-label={`take ${span.type} from ${span.lane}`}>
              take
            </button>
            <button type="button" onClick={() => onTurnDown(span)} aria-label={`${isDown(span) ? 'offer again' : 'turn down'} ${span.type} from ${span.lane}`}>
              {isDown(span) ? 'offer again' : 'turn down'}
            </button>
            <div className="quiet">
              {span.lane === 'tagger' ? (
                <button type="button" className="link" aria-expanded={asked} onClick={() => setAsked(!asked)}>
                  why the tagger says so
                </button>
              ) : (
                span.why
              )}
              {ruled(span) && (
                <button type="button" className="link" aria-expanded={asked} onClick={() => setAsked(!asked)}>
                  {span.taken ? 'why it was taken away' : 'why the rule says so'}
                </button>
              )}
              {span.taken ? <div>Taken away by the rule “{span.taken}”.</div> : span.overruled ? <div>Overruled: {span.overruled}.</div> : span.doubt && <div>In doubt: {span.doubt}.</div>}
            </div>
          </div>
          {asked && sentence && ruled(span) && <RuleWhy sentence={sentence.id} span={span} />}
          {asked && sentence && span.lane === 'tagger' && <Why sentence={sentence} span={span} hue={hues.get(span.type)} />}
          {sentence && sentence.weighs_from !== null && isLast(span, k, all) && <WeighedHere sentence={sentence} span={span} hue={hues.get(span.type)} />}
        </Fragment>
      ))}
    </div>
  )
})

/** Of lanes that say the same the last one. */
const isLast = (span: Evidence, k: number, all: readonly Evidence[]) => !all.slice(k + 1).some((other) => sameSpan(other, span))

/** What a span comes to where the pipeline weighs, and what speaks for it. */
function WeighedHere({ sentence, span, hue }: { sentence: DeskSentenceShown; span: Evidence; hue: number | undefined }) {
  const [asked, setAsked] = useState(false)
  const stands = sentence.resolved.find((other) => sameSpan(other, span))
  return (
    <div className="one">
      <div className="quiet">
        {stands ? `Together ${score(stands.probability)} %. ` : 'Does not stand together. '}
        <button type="button" className="link" aria-expanded={asked} onClick={() => setAsked(!asked)}>
          what speaks for it
        </button>
        {asked && <WhatSpeaks sentence={sentence} span={span} hue={hue} />}
      </div>
    </div>
  )
}

function WhatSpeaks({ sentence, span, hue }: { sentence: DeskSentenceShown; span: Evidence; hue: number | undefined }) {
  return <Weighed query={useQuery(weighedQuery(useProject(), sentence.id, span))} type={span.type} hue={hue} />
}

/** The key that marks a type, for the person at the keyboard. */
function TypeKey({ type }: { type: TypeShown }) {
  const mine = useOwnKeys()
  return <Cap>{type.key === '' ? '\u00a0' : shownCaps({ keys: [type.key], caps: [type.key], label: markLabel(type.name) }, mine).join(' ') || '\u00a0'}</Cap>
}

const TypeKeys = memo(function TypeKeys({ types, onMark }: { types: readonly TypeShown[]; onMark: (type: string) => void }) {
  return (
    <div className="typeKeys">
      {types.map((type) => (
        <button key={type.id} type="button" onClick={() => onMark(type.code)}>
          <TypeKey type={type} />
          <TypeCode code={type.code} hue={type.hue} />
          <span>{type.name}</span>
          <span className="count">{number(type.spans)}</span>
        </button>
      ))}
    </div>
  )
})
