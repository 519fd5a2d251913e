import { Box } from '@chakra-ui/react'
import { useQuery, useQueryClient } from '@tanstack/react-query'
import { useState } from 'react'
import { useNavigate } from 'react-router'

import { api, body } from '../../api/client'
import { projectsQuery } from '../../api/project'
import type { NewProjectWish, ProjectListed } from '../../api/schema'
import { ChoiceField, FileField, TextField } from '../../parts/controls'
import { FormWindow } from '../../parts/Window'
import { languagesQuery } from './queries'

const NONE = 'none'
const FILE = 'file'

const FORMS: Record<string, NewProjectWish['scheme_format']> = { json: 'json', ttl: 'turtle', jsonld: 'json-ld' }
const formOf = (name: string) => FORMS[name.toLowerCase().split('.').at(-1) ?? ''] ?? 'toml'

/** A name, a language, and where the scheme comes from. */
export function NewProject({ projects, onClose }: { projects: readonly ProjectListed[]; onClose: () => void }) {
  const client = useQueryClient()
  const navigate = useNavigate()
  const languages = useQuery(languagesQuery).data ?? []
  const [name, setName] = useState('')
  const [chosen, setLanguage] = useState('')
  const [source, setSource] = useState(NONE)
  const [file, setFile] = useState<{ name: string; text: string } | null>(null)
  const open = projects.filter((p) => p.removed_at === null)
  const send = async () => {
    // Whoever is quick sends before the languages have come.
    const language = chosen || ((await client.query(languagesQuery))[0]?.code ?? '')
    const wish: NewProjectWish = { name, language, scheme_format: formOf(file?.name ?? '') }
    if (source === FILE) wish.scheme_file = file?.text ?? ''
    else if (source !== NONE) wish.scheme_of = source
    const made = await body(api.POST('/api/projects', { body: wish }))
    await client.invalidateQueries({ queryKey: projectsQuery.queryKey })
    // The next thing that is missing: types, or texts where the scheme came along.
    await navigate(`/p/${made.slug}/${source === NONE ? 'types' : 'texts'}`)
  }
  return (
    <FormWindow title="New project" send="add" fields={['name', 'language']} onClose={onClose} onSend={send}>
      {(errorOf) => (
        <>
          <TextField label="name" value={name} autoFocus error={errorOf('name')} onChange={setName} />
          <ChoiceField
            label="language of its texts"
            value={chosen || (languages[0]?.code ?? '')}
            options={languages.map(({ code, name: label }) => ({ value: code, label }))}
            error={errorOf('language')}
            help="It says where sentences end and which words are abbreviations."
            onChange={setLanguage}
          />
          <ChoiceField
            label="scheme"
            value={source}
            options={[
              { value: NONE, label: 'none: I add the types myself' },
              ...open.map((p) => ({ value: p.slug, label: `the types of ${p.name}` })),
              { value: FILE, label: 'from a file' },
            ]}
            onChange={setSource}
          />
          {source === FILE && (
            <FileField
              label="file with the types: TOML, JSON or SKOS"
              accept=".toml,.json,.ttl,.jsonld"
              help="As a project's scheme is downloaded under Types."
              onChoose={(picked) => void picked.text().then((text) => setFile({ name: picked.name, text }))}
            />
          )}
          <Box color="second" fontSize="small" mb="1">
            You are its lead; others come by invitation.
          </Box>
        </>
      )}
    </FormWindow>
  )
}
