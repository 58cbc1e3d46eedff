import type { QueryClient } from '@tanstack/react-query'

import { findingsQuery, sheetQuery, studiesQuery, studyQuery } from '@/api/queries'

/** Asks for what the page at this address will show, while its scripts are still on their way. */
export function askAhead(queries: QueryClient, { pathname, search }: { pathname: string; search: string }) {
  const [, where, id, part] = pathname.split('/')
  if (where === 'studies' && id) {
    void queries.prefetchQuery(studyQuery(id))
    void queries.prefetchQuery(sheetQuery(id))
    const withAside = new URLSearchParams(search).get('aside') === 'with'
    if (part === 'findings') void queries.prefetchQuery(findingsQuery(id, withAside))
  } else if (where === 'studies' || where === '') {
    void queries.prefetchQuery(studiesQuery())
  }
}
