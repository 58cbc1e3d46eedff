import type { FindingRow, ReadingColumns } from '@/api/types'
import { ofRow } from '@/charts/layout/rowReadings'

const HEAD = ['contender', 'machine', 'metric', 'value', 'unit', 'method', 'block', 'set_aside']

const cell = (value: string | number) => {
  const text = String(value)
  return /[",\n]/.test(text) ? `"${text.replaceAll('"', '""')}"` : text
}

/** The readings behind a row's picture, in its canonical unit. */
export function rowCsv(row: FindingRow, columns: ReadingColumns, names: ReadonlyMap<number, string>): string {
  const lines = ofRow(row, columns).map((one) => [
    names.get(one.laneNo) ?? '',
    row.machine,
    row.metric,
    one.value,
    row.unit,
    row.method,
    one.block,
    one.setAside ?? '',
  ])
  return [HEAD, ...lines].map((line) => `${line.map(cell).join(',')}\n`).join('')
}
