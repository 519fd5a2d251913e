import { createBrowserRouter } from 'react-router'

import { Desk } from '../places/desk/Desk'
import { Lists } from '../places/lists/Lists'
import { Records } from '../places/records/Records'
import { Rules } from '../places/rules/Rules'
import { Scores } from '../places/scores/Scores'
import { Tagger } from '../places/tagger/Tagger'
import { Texts } from '../places/texts/Texts'
import { Types } from '../places/types/Types'
import { AccountPage } from '../places/team/AccountPage'
import { AccountsPage } from '../places/team/AccountsPage'
import { Invitation } from '../places/team/Invitation'
import { ProjectPage } from '../places/team/ProjectPage'
import { Projects } from '../places/team/Projects'
import { Beginning, Entrance } from './Entrance'
import { Frame, PlainFrame } from './Frame'
import { SignIn } from './SignIn'
import { Trouble } from './Trouble'

export const router = createBrowserRouter([
  { path: '/sign-in', element: <SignIn />, errorElement: <Trouble /> },
  { path: '/invitation', element: <Invitation />, errorElement: <Trouble /> },
  { path: '/', element: <Entrance />, errorElement: <Trouble /> },
  {
    element: <PlainFrame />,
    errorElement: <Trouble />,
    children: [
      { path: '/projects', element: <Projects /> },
      { path: '/account', element: <AccountPage /> },
      { path: '/accounts', element: <AccountsPage /> },
    ],
  },
  {
    path: '/p/:project',
    element: <Frame />,
    errorElement: <Trouble />,
    children: [
      { index: true, element: <Beginning /> },
      { path: 'project', element: <ProjectPage /> },
      { path: 'types/:id?', element: <Types /> },
      { path: 'texts/:id?', element: <Texts /> },
      { path: 'desk/:id?', element: <Desk /> },
      { path: 'lists/:id?', element: <Lists /> },
      { path: 'rules/:id?', element: <Rules /> },
      { path: 'tagger/:id?', element: <Tagger /> },
      { path: 'scores/:id?', element: <Scores /> },
      { path: 'records/:id?', element: <Records /> },
      { path: '*', element: <Trouble /> },
    ],
  },
  // Only for those who work on it: the page is left out of what is built.
  ...(import.meta.env.DEV ? [{ path: '/gallery', lazy: async () => ({ Component: (await import('../gallery/Gallery')).Gallery }) }] : []),
  { path: '*', element: <Trouble /> },
])
