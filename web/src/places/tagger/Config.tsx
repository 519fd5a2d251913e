import { Box, Flex } from '@chakra-ui/react'
import { useQuery } from '@tanstack/react-query'
import { useState } from 'react'

import type { TrainingShown } from '../../api/schema'
import { LinkAct, QuietAct } from '../../parts/controls'
import { Heading, Section } from '../../parts/layout'
import { Facts } from '../../parts/signs'
import { Window } from '../../parts/Window'
import { settingsQuery, useSettingTitles } from './queries'
import { WordClasses } from './WordClasses'

interface ConfigProps {
  training: TrainingShown
  /** Begin a new training with these settings; nobody but leads may. */
  onTakeUp: (() => void) | undefined
}

/** The settings of a training, what each means, the same as a file, and the word classes it learnt. */
export function Config({ training, onTakeUp }: ConfigProps) {
  const help = useQuery(settingsQuery).data
  const [asText, setAsText] = useState(false)
  const [asked, setAsked] = useState<string>()
  const { features, types, ...plain } = training.settings
  const { titleOf } = useSettingTitles()
  const meaning = [...(help?.choices ?? []), ...(help?.settings ?? [])].find((s) => s.name === asked)?.help
  return (
    <>
      <Heading
        side={
          <Flex gap="2" fontSize="small">
            <LinkAct onClick={() => setAsText(true)}>as text</LinkAct>
            {onTakeUp && <LinkAct onClick={onTakeUp}>use these settings</LinkAct>}
          </Flex>
        }
      >
        Settings
      </Heading>
      <Facts
        facts={[
          ...Object.entries(plain).map(
            ([name, value]) =>
              [titleOf(name), <LinkAct key={name} aria-label={`${titleOf(name)}: ${String(value)}, what it means`} aria-expanded={asked === name} onClick={() => setAsked(asked === name ? undefined : name)}>{String(value)}</LinkAct>] as const,
          ),
          ['types', types && types.length > 0 ? types.join(', ') : 'all'],
        ]}
      />
      {meaning && (
        <Box bg="raised" borderWidth="1px" borderColor="hairline" px="2.5" py="2" mt="2" fontSize="small" role="status">
          <b>{titleOf(asked ?? '')}</b> <Box as="code" fontSize="tiny">{asked}</Box>: {meaning}
        </Box>
      )}
      <Section>
        <Heading>Features</Heading>
        {help?.features.map(
          (feature) =>
            features?.includes(feature.name) && (
              <Box key={feature.name} mb="1" fontSize="small">
                <b>{feature.name}</b>{' '}
                <Box as="span" color="second">
                  {feature.help}
                </Box>
              </Box>
            ),
        )}
      </Section>
      <WordClasses training={training} />
      {asText && <AsText training={training} onClose={() => setAsText(false)} />}
    </>
  )
}

function AsText({ training, onClose }: { training: TrainingShown; onClose: () => void }) {
  const [copied, setCopied] = useState('')
  const copy = async () => {
    try {
      await navigator.clipboard.writeText(training.config)
      setCopied('copied')
    } catch {
      setCopied('The browser does not let this page copy; mark the text and copy it by hand.')
    }
  }
  return (
    <Window
      title={`Config of “${training.name}”`}
      wide
      onClose={onClose}
      footer={
        <>
          <Box color="second" fontSize="small" role="status">
            {copied}
          </Box>
          <QuietAct onClick={() => void copy()}>copy</QuietAct>
          <QuietAct onClick={onClose}>close</QuietAct>
        </>
      }
    >
      <Box mb="2" color="second" fontSize="small">
        The same file serves <code>urdaten tagger train --config</code>.
      </Box>
      <Box as="pre" fontFamily="mono" fontSize="small" whiteSpace="pre-wrap" bg="ground" p="3" tabIndex={0} aria-label="config file">
        {training.config}
      </Box>
    </Window>
  )
}
