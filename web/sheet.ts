import { type Plugin, runnerImport } from 'vite'

const NAME = 'virtual:sheet.css'

/** The sheet of the theme as a file beside the application: read with it, and not made of objects in every browser. */
export function sheet(): Plugin {
  return {
    name: 'sheet',
    resolveId: (id) => (id === NAME ? `\0${NAME}` : undefined),
    async load(id) {
      if (id !== `\0${NAME}`) return undefined
      const { module, dependencies } = await runnerImport<typeof import('./src/theme/sheet')>(new URL('src/theme/sheet.ts', import.meta.url).pathname)
      for (const file of dependencies) this.addWatchFile(file)
      return module.sheet()
    },
  }
}
