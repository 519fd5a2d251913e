import { Box } from '@chakra-ui/react'
import { useQuery } from '@tanstack/react-query'

import { useProject } from '../../api/project'
import type { RuleLanguageShown, LeansShown } from '../../api/schema'
import { score } from '../../parts/words'
import { languageQuery } from './queries'

/** That a pattern leans on what is known of words, and how often that is right. */
export function Leans({ leans }: { leans: LeansShown }) {
  const project = useProject()
  const language = useQuery({ ...languageQuery(project), enabled: leans.tags.length > 0 || leans.lemmas })
  if (!language.data) return null
  const said = leaning(leans, language.data)
  if (said.length === 0) return null
  return (
    <Box color="second" fontSize="small" mb="3" maxW="3xl">
      It leans on what is known of words. Right in sentences held out: {said.join(', ')}.
    </Box>
  )
}

function leaning(leans: LeansShown, { tags, held_out }: RuleLanguageShown): string[] {
  const said = tags.filter(({ tag, found }) => leans.tags.includes(tag) && found > 0).map(({ tag, right, found }) => `${score(right / found)} % of words tagged ${tag}`)
  const words = held_out.reduce((sum, one) => sum + one.words, 0)
  const right = held_out.reduce((sum, one) => sum + one.lemmas_right, 0)
  return leans.lemmas && words > 0 ? [...said, `${score(right / words)} % of lemmas`] : said
}
