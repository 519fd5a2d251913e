import { Box } from '@chakra-ui/react'
import { isRouteErrorResponse, Link, useRouteError } from 'react-router'

import { messageOf } from '../api/client'

/** Shown where there is no page, or where one has failed. */
export function Trouble() {
  const error = useRouteError()
  const unknown = error === undefined || error === null || (isRouteErrorResponse(error) && error.status === 404)
  return (
    <Box p="8" maxW="prose" role="alert">
      <Box as="h1" fontFamily="heading" fontSize="head" mb="2">
        {unknown ? 'There is no such page' : 'This page has failed'}
      </Box>
      <Box mb="3">
        {unknown
          ? 'The address may be old. What you have signed is safe.'
          : `${messageOf(error)} What you have signed is safe; load the page again.`}
      </Box>
      <Box asChild color="action">
        <Link to="/" reloadDocument>
          to the project
        </Link>
      </Box>
    </Box>
  )
}
