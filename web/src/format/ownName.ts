/** How a measure of the tester's own is called, from its key: `own.s.low.Sort_seeds`. */
export const ownName = (key: string | undefined) => (key?.split('.').at(-1) ?? '').replaceAll('_', ' ')
