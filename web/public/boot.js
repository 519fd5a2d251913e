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
  const at = `/api/projects/${project}`
  const isOfProject = p === 'p' && project
  // First what takes longest and is waited for.
  if (isOfProject && place === 'desk' && /^\d+$/.test(id ?? '')) {
    ask(`${at}/desk/sentences/${id}`)
    ask(`${at}/desk/queue?split=&show=all&at=${id}`)
  }
  ask('/api/me')
  if (isOfProject) {
    ask(at)
    ask(`${at}/types`)
    if (place === 'desk') {
      ask(`${at}/desk/rounds`)
      ask(`${at}/desk/queue/counts?split=`)
    }
    ask(`${at}/figures`)
  }
  window.early = early
})()
