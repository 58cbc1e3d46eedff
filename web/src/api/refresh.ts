import type { QueryClient, QueryFilters } from '@tanstack/react-query'

/**
 * Asks anew for everything that a change may have touched.
 *
 * A first answer that is still on its way may be from before the change, and asking again would only
 * wait for the same one: it is asked for once more when it has come.
 */
export function refresh(queries: QueryClient, filters: QueryFilters = {}): Promise<void> {
  for (const query of queries.getQueryCache().findAll({ ...filters, fetchStatus: 'fetching' })) {
    if (query.state.data !== undefined) continue
    const again = () => void queries.invalidateQueries({ queryKey: query.queryKey, exact: true })
    query.promise?.then(again, again)
  }
  return queries.invalidateQueries(filters)
}
