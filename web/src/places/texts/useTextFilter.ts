import { useMemo } from 'react'
import { useSearchParams } from 'react-router'

import { filterOf, NO_FILTER, paramsOf, type TextFilter } from './filter'

/** Which texts are shown: it stands in the address, and so goes along from one view of them to the next. */
export function useTextFilter() {
  const [params, setParams] = useSearchParams()
  const filter = useMemo(() => filterOf(params), [params])
  return {
    filter,
    search: params.size > 0 ? `?${params}` : '',
    change: (part: Partial<TextFilter>) => setParams(paramsOf({ ...filter, ...part }), { replace: true }),
    clear: () => setParams(paramsOf(NO_FILTER), { replace: true }),
  }
}
