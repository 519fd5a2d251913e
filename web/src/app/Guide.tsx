import { Box, Flex } from '@chakra-ui/react'
import { Marked } from 'marked'
import { type MouseEvent, useEffect, useMemo, useRef, useState } from 'react'
import { useLocation } from 'react-router'

import { LinkAct, QuietAct } from '../parts/controls'
import { Window } from '../parts/Window'

// The same files that are read with the code: docs/ holds no other text for the application.
const texts = import.meta.glob<string>(['../../../docs/guide/*.md', '../../../docs/{formats,tagger,security}.md'], { eager: true, query: '?raw', import: 'default' })
const pictures = import.meta.glob<string>('../../../docs/screenshots/*.png', { eager: true, query: '?url', import: 'default' })

const nameOf = (path: string) => path.split('/').at(-1)?.replace(/\.\w+$/, '') ?? ''
// Pages of the guide by their names, other documents as the guide's links have them.
const PAGES = new Map(Object.entries(texts).map(([path, text]) => [path.includes('/guide/') ? nameOf(path) : `../${nameOf(path)}`, text]))
const PICTURES = new Map(Object.entries(pictures).map(([path, address]) => [nameOf(path), address]))

const titleOf = (text: string) => /^# (.+)$/m.exec(text)?.[1] ?? ''

/** Pages in working order, as the guide's contents list them. */
const CONTENTS = [...(PAGES.get('README') ?? '').matchAll(/\]\(([\w-]+)\.md\)/g)].map(([, name = '']) => name)

/** The page of the place at an address. */
export function pageOf(path: string): string {
  const [, p = '', , place = ''] = path.split('/')
  if (p === 'account' || p === 'accounts') return 'signing-in'
  return p === 'p' && PAGES.has(place) ? place : 'projects'
}

const marked = new Marked({ async: false, walkTokens: (token) => {
  if (token.type === 'image') token['href'] = PICTURES.get(nameOf(String(token['href']))) ?? ''
} })

/** The guide over the page, open where one is. */
export function Guide({ onClose }: { onClose: () => void }) {
  const { pathname } = useLocation()
  const [page, setPage] = useState(() => pageOf(pathname))
  const text = PAGES.get(page) ?? ''
  const html = useMemo(() => marked.parse(text.replace(/^# .+$/m, '')) as string, [text])
  const top = useRef<HTMLDivElement>(null)
  useEffect(() => {
    top.current?.closest('[data-part=body]')?.scrollTo(0, 0)
  }, [page])
  const follow = (event: MouseEvent) => {
    const link = event.target instanceof Element ? event.target.closest('a')?.getAttribute('href') : undefined
    if (!link || !/^[\w./-]+\.md(#.*)?$/.test(link)) return
    event.preventDefault()
    const name = link.replace(/\.md(#.*)?$/, '')
    if (PAGES.has(name)) setPage(name)
  }
  return (
    <Window title={titleOf(text)} wide reads onClose={onClose} footer={<QuietAct onClick={onClose}>close</QuietAct>}>
      <Flex as="nav" ref={top} aria-label="pages of the guide" wrap="wrap" columnGap="4" rowGap="1" mb="3" pb="2" borderBottomWidth="1px" borderColor="hairline">
        {CONTENTS.map((name) => (
          <LinkAct key={name} aria-current={name === page ? 'page' : undefined} color={name === page ? 'ink' : 'action'} fontWeight={name === page ? 'bold' : 'normal'} onClick={() => setPage(name)}>
            {titleOf(PAGES.get(name) ?? '')}
          </LinkAct>
        ))}
      </Flex>
      {/* Our own files, not what anybody typed. */}
      <Box className="guide" onClick={follow} dangerouslySetInnerHTML={{ __html: html }} />
    </Window>
  )
}
