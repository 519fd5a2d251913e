import '@testing-library/jest-dom/vitest'
import 'fake-indexeddb/auto'

import { cleanup, configure } from '@testing-library/react'
import { afterEach, expect, vi } from 'vitest'

import { server } from './server'

// The typed client takes hold of fetch when its module is loaded, so it must be ours before that.
globalThis.fetch = (input, init) => server.answer(new Request(input, init))

// jsdom lays nothing out and draws nothing: every box is as large as a window, and text has no width.
vi.stubGlobal(
  'ResizeObserver',
  class {
    observe() {
      // sizes never change here
    }
    unobserve() {
      // sizes never change here
    }
    disconnect() {
      // sizes never change here
    }
  },
)
// Nothing comes into view by scrolling.
vi.stubGlobal(
  'IntersectionObserver',
  class {
    observe() {
      // never seen
    }
    disconnect() {
      // never seen
    }
  },
)
vi.spyOn(HTMLElement.prototype, 'clientWidth', 'get').mockReturnValue(600)
vi.spyOn(HTMLElement.prototype, 'clientHeight', 'get').mockReturnValue(700)
vi.spyOn(HTMLCanvasElement.prototype, 'getContext').mockReturnValue(null)
Element.prototype.scrollTo = () => undefined
Element.prototype.scrollIntoView = () => undefined
Element.prototype.setPointerCapture = () => undefined

// A busy machine is slow, not wrong.
configure({ asyncUtilTimeout: 15_000 })

afterEach(() => {
  cleanup()
  expect(server.unknown.splice(0), 'asked of the fake server, which has no answer').toEqual([])
})
