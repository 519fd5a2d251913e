import { createBrowserRouter } from 'react-router'

import { Desk } from '../places/desk/Desk'
import { Beginning, Entrance } from './Entrance'
import { Frame, PlainFrame } from './Frame'
import { SignIn } from './SignIn'
import { Trouble } from './Trouble'

// The Desk is there at once; every other place comes when somebody goes there.

export const router = createBrowserRouter([
  { path: '/sign-in', element: <SignIn />, errorElement: <Trouble /> },
  { path: '/invitation', errorElement: <Trouble />, lazy: async () => ({ Component: (await import('../places/team/Invitation')).Invitation }) },
  { path: '/', element: <Entrance />, errorElement: <Trouble /> },
  {
    element: <PlainFrame />,
    errorElement: <Trouble />,
    children: [
      { path: '/projects', lazy: async () => ({ Component: (await import('../places/team/Projects')).Projects }) },
      { path: '/account', lazy: async () => ({ Component: (await import('../places/team/AccountPage')).AccountPage }) },
      { path: '/accounts', lazy: async () => ({ Component: (await import('../places/team/AccountsPage')).AccountsPage }) },
    ],
  },
  {
    path: '/p/:project',
    element: <Frame />,
    errorElement: <Trouble />,
    children: [
      { index: true, element: <Beginning /> },
      { path: 'project', lazy: async () => ({ Component: (await import('../places/team/ProjectPage')).ProjectPage }) },
      { path: 'types/:id?', lazy: async () => ({ Component: (await import('../places/types/Types')).Types }) },
      { path: 'texts/imports/:id?', lazy: async () => ({ Component: (await import('../places/intake/Imports')).Imports }) },
      { path: 'texts/findings', lazy: async () => ({ Component: (await import('../places/texts/findings/Findings')).Findings }) },
      { path: 'texts/table', lazy: async () => ({ Component: (await import('../places/texts/TableView')).TableView }) },
      { path: 'texts/:id?', lazy: async () => ({ Component: (await import('../places/texts/Texts')).Texts }) },
      { path: 'desk/:id?', element: <Desk /> },
      { path: 'lists/:id?', lazy: async () => ({ Component: (await import('../places/lists/Lists')).Lists }) },
      { path: 'rules/:id?', lazy: async () => ({ Component: (await import('../places/rules/Rules')).Rules }) },
      { path: 'tagger/:id?', lazy: async () => ({ Component: (await import('../places/tagger/Tagger')).Tagger }) },
      { path: 'pipeline/:id?', lazy: async () => ({ Component: (await import('../places/pipeline/Pipeline')).Pipeline }) },
      { path: 'scores/:id?', lazy: async () => ({ Component: (await import('../places/scores/Scores')).Scores }) },
      { path: 'records/:id?', lazy: async () => ({ Component: (await import('../places/records/Records')).Records }) },
      { path: '*', element: <Trouble /> },
    ],
  },
  // Only for those who work on it: the page is left out of what is built.
  ...(import.meta.env.DEV ? [{ path: '/gallery', lazy: async () => ({ Component: (await import('../gallery/Gallery')).Gallery }) }] : []),
  { path: '*', element: <Trouble /> },
])
