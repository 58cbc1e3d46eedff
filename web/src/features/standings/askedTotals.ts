import type { AskedTotals } from '@/api/standings'
import type { View } from '@/ui/useView'

const WEIGHT = 'w.'

/** The name under which a part's weight is kept in the address. */
export const weightName = (part: string) => `${WEIGHT}${part}`

/** The weights that the address holds; none where it leaves them open. */
export const weightsOf = (search: URLSearchParams): Record<string, number> =>
  Object.fromEntries(
    [...search]
      .filter(([name, value]) => name.startsWith(WEIGHT) && Number(value) > 0)
      .map(([name, value]) => [name.slice(WEIGHT.length), Number(value)]),
  )

/** What the address asks for. */
export function askedTotals(view: View, search: URLSearchParams): AskedTotals {
  const weights = Object.entries(weightsOf(search))
  return {
    ...(view.get('study') && { study: view.get('study') }),
    ...(view.get('machine') && { machine: view.get('machine') }),
    ...(view.get('ref') && { reference: view.get('ref') }),
    ...(view.get('set') && { set_id: view.get('set') }),
    ...(view.get('zero') && view.get('hundred')
      ? { nothing: Number(view.get('zero')), hundred: Number(view.get('hundred')) }
      : {}),
    ...(weights.length && { weight: weights.map(([part, weight]) => `${part}:${weight}`) }),
  }
}

/** The ends as they are typed: `50 to 150`. Null where that is not so, and where nothing is typed. */
export function typedEnds(text: string): { zero: string; hundred: string } | null {
  const found = /^\s*([0-9.]+)\s*(?:to|,|-|–)\s*([0-9.]+)\s*$/.exec(text)
  return found && Number(found[1]) < Number(found[2]) ? { zero: found[1]!, hundred: found[2]! } : null
}
