// What the address asks for is asked at once, while the application itself is still being read; api/early.ts hands the
// answers out. Nothing depends on it: what is not asked here is asked there.
;(() => {
  const early = new Map()
  const ask = (path) => {
    const answer = fetch(path)
    answer.catch(() => undefined)
    early.set(path, { answer, at: performance.now() })
  }
  const [, p, project, place, id] = location.pathname.split('/')
  // Who signs in is somebody else afterwards.
  if (p === 'sign-in' || p === 'invitation') return
  ask('/api/me')
  if (p === 'p' && project) {
    const at = `/api/projects/${project}`
    ask(at)
    ask(`${at}/figures`)
    ask(`${at}/types`)
    if (place === 'desk') {
      ask(`${at}/desk/rounds`)
      ask(`${at}/desk/queue/counts?split=`)
      if (/^\d+$/.test(id ?? '')) {
        ask(`${at}/desk/queue?split=&show=all&at=${id}`)
        ask(`${at}/desk/sentences/${id}`)
      }
    }
  }
  window.early = early
})()
