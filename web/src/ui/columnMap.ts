/** What the columns of a table mean. */
export type Meaning = {
  columns: Record<string, string>
  measures: Record<string, { metric: string; unit: string }>
  fixed: Record<string, string>
  units: Record<string, string>
}

export type ColumnMeaning =
  { kind: 'nothing' } | { kind: 'column'; ours: string } | { kind: 'measure'; metric: string; unit: string }

const OF_A_MEASURE = ['metric', 'value', 'unit']

/** What one column means; a column that bears one of our names means that. */
export function ofColumn(meaning: Meaning, name: string, ours: readonly string[]): ColumnMeaning {
  const measure = meaning.measures[name]
  if (measure) return { kind: 'measure', ...measure }
  const column = meaning.columns[name] ?? (ours.includes(name) ? name : undefined)
  return column ? { kind: 'column', ours: column } : { kind: 'nothing' }
}

const without = <T>(record: Record<string, T>, name: string): Record<string, T> =>
  Object.fromEntries(Object.entries(record).filter(([key]) => key !== name))

/** The same meaning, but for one column. What a column gives is no longer the same in every row. */
export function withColumn(meaning: Meaning, name: string, found: ColumnMeaning): Meaning {
  const columns = without(meaning.columns, name)
  const measures = without(meaning.measures, name)
  if (found.kind === 'column') columns[name] = found.ours
  if (found.kind === 'measure') measures[name] = { metric: found.metric, unit: found.unit }
  const given = [...Object.values(columns), ...(Object.keys(measures).length ? OF_A_MEASURE : [])]
  const fixed = Object.fromEntries(Object.entries(meaning.fixed).filter(([key]) => !given.includes(key)))
  return { ...meaning, columns, measures, fixed }
}

/** Which required columns neither the file nor its meaning gives. */
export function stillMissing(
  meaning: Meaning,
  header: readonly string[],
  required: readonly string[],
): string[] {
  const named = header.filter((name) => !meaning.measures[name]).map((name) => meaning.columns[name] ?? name)
  const hasMeasures = Object.keys(meaning.measures).length > 0
  return required.filter(
    (name) =>
      !(hasMeasures && OF_A_MEASURE.includes(name)) && !named.includes(name) && !meaning.fixed[name]?.trim(),
  )
}

/** Whether no column of the file holds values. */
export const meansNothing = (meaning: Meaning, header: readonly string[]): boolean =>
  Object.keys(meaning.measures).length === 0 &&
  !header.some((name) => (meaning.columns[name] ?? name) === 'value')
