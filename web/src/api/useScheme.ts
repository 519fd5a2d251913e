import { useQuery } from '@tanstack/react-query'
import { useMemo } from 'react'

import { schemeQuery, useProject } from './project'
import type { TypeShown } from './schema'

const NONE: TypeShown[] = []

/** The scheme's types, and the hue of each code. */
export function useScheme(): { types: TypeShown[]; hues: ReadonlyMap<string, number>; ready: boolean } {
  const query = useQuery(schemeQuery(useProject()))
  const types = query.data?.types ?? NONE
  const hues = useMemo(() => new Map(types.map((t) => [t.code, t.hue])), [types])
  return { types, hues, ready: query.data !== undefined }
}
