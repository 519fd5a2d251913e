import { Box, Flex } from '@chakra-ui/react'
import { useQuery } from '@tanstack/react-query'
import { useState } from 'react'

import { useProject } from '../../api/project'
import type { OfferShown } from '../../api/schema'
import { useScheme } from '../../api/useScheme'
import { Ask } from '../../parts/Ask'
import { Act, ChoiceField, LinkAct, QuietAct } from '../../parts/controls'
import { useKeys } from '../../parts/keys'
import { Title } from '../../parts/layout'
import { number, plural } from '../../parts/words'
import { StaveList } from '../../stave/StaveList'
import { type Draft, draftOf } from './drafts'
import { offersQuery, TRIAL_LANES, trialQuery } from './queries'
import { TrialSaid, tried } from './TrialSaid'
import { Written } from './Written'

interface OffersSheetProps {
  type: string
  onType: (type: string) => void
  onClose: () => void
  /** An offer was taken: it is to be the draft of a new rule. */
  onRule: (draft: Draft) => void
}

/** Rules learnt from signed sentences, to look at and to take. */
export function OffersSheet({ type, onType, onClose, onRule }: OffersSheetProps) {
  const project = useProject()
  const { types } = useScheme()
  const wanted = type || (types[0]?.code ?? '')
  const offers = useQuery({ ...offersQuery(project, wanted), enabled: wanted !== '' })
  const [open, setOpen] = useState<string | null>(null)
  const rows = offers.data?.offers ?? []
  const at = rows.findIndex(({ pattern }) => pattern === open)
  const take = ({ pattern }: OfferShown, example = '') => {
    onRule({ ...draftOf(undefined), wish: { ...draftOf(undefined).wish, type: wanted, pattern }, find: example, begun: true })
  }
  const step = (by: number) => setOpen(rows[Math.min(rows.length - 1, Math.max(0, at + by))]?.pattern ?? null)
  useKeys(
    [
      { keys: ['escape'], caps: ['esc'], label: 'back to the rules', run: onClose },
      { keys: ['arrowdown'], caps: ['↓'], label: 'next offer', run: () => step(1), quiet: true },
      { keys: ['arrowup'], caps: ['↑'], label: 'offer before', run: () => step(-1), quiet: true },
    ],
    1,
  )
  return (
    <Box>
      <Title side={<QuietAct onClick={onClose}>close</QuietAct>}>Rules from gold</Title>
      <Flex gap="4" align="flex-start">
        <Box w="60">
          <ChoiceField
            label="that mark"
            value={wanted}
            options={types.map((t) => ({ value: t.code, label: `${t.code} ${t.name}` }))}
            onChange={(next) => {
              setOpen(null)
              onType(next)
            }}
          />
        </Box>
        <Box color="second" pt="5" maxW="2xl">
          What spans of a type and the words around them have in common. Each is held against signed sentences, never against those of test texts; the one that adds most to the
          rules there are stands first.
        </Box>
      </Flex>
      <Ask query={offers}>
        {({ offers: found, sentences, all }) => (
          <>
            <Box color="second" fontSize="small" mb="2" role="status">
              {found.length === 0 ? 'Nothing that is right often enough adds three spans or more' : plural(found.length, 'offer')}, from{' '}
              {all ? plural(sentences, 'signed sentence') : `the first ${plural(sentences, 'signed sentence')}`}.
            </Box>
            {found.map((offer) => (
              <Offer key={offer.pattern} offer={offer} type={wanted} open={offer.pattern === open} onOpen={() => setOpen(offer.pattern === open ? null : offer.pattern)} onTake={(example) => take(offer, example)} />
            ))}
          </>
        )}
      </Ask>
    </Box>
  )
}

interface OfferProps {
  offer: OfferShown
  type: string
  open: boolean
  onOpen: () => void
  onTake: (example: string) => void
}

function Offer({ offer, type, open, onOpen, onTake }: OfferProps) {
  const project = useProject()
  const { hues } = useScheme()
  const trial = useQuery({ ...trialQuery(project, { ...draftOf(undefined).wish, name: 'offer', type, pattern: offer.pattern }), enabled: open })
  // A sentence in which it is right shows best what it is for.
  const example = trial.data?.staves.find((stave) => stave.signed && !stave.differs)?.words ?? ''
  return (
    <Box borderTopWidth="1px" borderColor="hairline" py="2">
      <Flex justify="space-between" gap="4" align="flex-start">
        <Box flex="1" minW="0">
          <Written pattern={offer.pattern} />
        </Box>
        <Box whiteSpace="nowrap" fontVariantNumeric="tabular-nums">
          adds {number(offer.adds)} · right {number(offer.right)} · wrong {number(offer.wrong)}
        </Box>
      </Flex>
      <Flex gap="3" align="center">
        <LinkAct aria-expanded={open} onClick={onOpen}>
          {open ? 'hide its sentences' : 'its sentences'}
        </LinkAct>
        <Box color="second" fontSize="small" flex="1" truncate title={offer.aloud.join(' ')}>
          {offer.aloud.join(' ')}
        </Box>
        <Act onClick={() => onTake(example)}>take it</Act>
      </Flex>
      {open && (
        <Box mt="2">
          <Ask query={trial}>
            {(told) => (
              <>
                <Box color="second" fontSize="small" mb="2">
                  <TrialSaid trial={told} where={tried(told)} /> Wrong ones stand first.
                </Box>
                <StaveList page={{ total: told.staves.length, staves: told.staves }} lanes={TRIAL_LANES} hues={hues} empty="" />
              </>
            )}
          </Ask>
        </Box>
      )}
    </Box>
  )
}
