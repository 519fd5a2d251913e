import { createBrowserRouter, Navigate } from 'react-router'

import { Desk } from '../places/desk/Desk'
import { Lists } from '../places/lists/Lists'
import { Records } from '../places/records/Records'
import { Rules } from '../places/rules/Rules'
import { Scores } from '../places/scores/Scores'
import { Tagger } from '../places/tagger/Tagger'
import { Texts } from '../places/texts/Texts'
import { Types } from '../places/types/Types'
import { Entrance } from './Entrance'
import { Frame } from './Frame'
import { SignIn } from './SignIn'
import { Trouble } from './Trouble'

export const router = createBrowserRouter([
  { path: '/sign-in', element: <SignIn />, errorElement: <Trouble /> },
  { path: '/', element: <Entrance />, errorElement: <Trouble /> },
  {
    path: '/p/:project',
    element: <Frame />,
    errorElement: <Trouble />,
    children: [
      { index: true, element: <Navigate to="desk" replace /> },
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
  { path: '*', element: <Trouble /> },
])
