import { useSearchParams } from 'react-router'

/** What the address says now; a second key press may come before the page is drawn anew. */
export const presentSearch = () => new URLSearchParams(window.location.search)

export type View = {
  get: (name: string) => string
  /** Put into the address; what is empty leaves it. */
  put: (changes: Readonly<Record<string, string>>) => void
  /** The same as a step that Back takes again. */
  go: (changes: Readonly<Record<string, string>>) => void
}

/** The view as the address keeps it, so that the address brings back exactly this view. */
export function useView(): View {
  const [search, setSearch] = useSearchParams()
  const change = (changes: Readonly<Record<string, string>>, replace: boolean) => {
    const next = presentSearch()
    for (const [name, value] of Object.entries(changes)) {
      if (value) next.set(name, value)
      else next.delete(name)
    }
    if (next.toString() !== presentSearch().toString()) setSearch(next, { replace })
  }
  return {
    get: (name) => search.get(name) ?? '',
    put: (changes) => change(changes, true),
    go: (changes) => change(changes, false),
  }
}

/** The one after `now`, and the first after the last. */
export const nextOf = <T>(all: readonly T[], now: T) => all[(all.indexOf(now) + 1) % all.length]!
