/** A sheet of figures: repeats down, contenders across; each cell as it was written. */

export type Column = { system: string; machine: string; install: string }
export type Sheet = { columns: readonly Column[]; rows: readonly (readonly string[])[] }

export const LEAST_ROWS = 6
export const MOST_ROWS = 200
export const MOST_COLUMNS = 40

const FAILED = /^(?:x|✗|failed)(?:[\s:,-]+(.*))?$/i

/** What a cell says: nothing, a figure, or that the run failed. */
export function cellOf(text: string): { kind: 'missing' | 'figure' | 'failed'; reason: string } {
  const plain = text.trim()
  if (plain === '' || plain === '-' || plain === '–') return { kind: 'missing', reason: '' }
  const failed = FAILED.exec(plain)
  return failed ? { kind: 'failed', reason: (failed[1] ?? '').trim() } : { kind: 'figure', reason: '' }
}

export const emptySheet = (columns: readonly Column[], rows = LEAST_ROWS): Sheet => ({
  columns,
  rows: Array.from({ length: rows }, () => columns.map(() => '')),
})

export const textAt = (sheet: Sheet, row: number, column: number) => sheet.rows[row]?.[column] ?? ''

/** The sheet with one cell rewritten; a fresh row follows once the last one is used. */
export function written(sheet: Sheet, row: number, column: number, text: string): Sheet {
  const rows = sheet.rows.map((one, i) =>
    i === row ? sheet.columns.map((_, j) => (j === column ? text : (one[j] ?? ''))) : one,
  )
  return grown({ ...sheet, rows })
}

function grown(sheet: Sheet): Sheet {
  const last = sheet.rows.at(-1)
  if (!last?.some((text) => text.trim()) || sheet.rows.length >= MOST_ROWS) return sheet
  return { ...sheet, rows: [...sheet.rows, sheet.columns.map(() => '')] }
}

/** Rows and columns of a pasted text: tabs, or semicolons where there are none. */
export function pastedCells(text: string): string[][] {
  const lines = text.replace(/\r\n?/g, '\n').replace(/\n+$/, '').split('\n').slice(0, MOST_ROWS)
  const mark = lines.some((line) => line.includes('\t')) ? '\t' : ';'
  return lines.map((line) =>
    line
      .split(mark)
      .slice(0, MOST_COLUMNS)
      .map((cell) => cell.trim()),
  )
}

const isFigure = (text: string) => /\d/.test(text) && !/[a-z]{4}/i.test(text)

/** Whether a pasted first row names the contenders rather than being figures. */
export const hasNames = (cells: readonly (readonly string[])[]) =>
  cells.length > 1 && cells[0]!.length > 0 && cells[0]!.every((cell) => cell !== '' && !isFigure(cell))

/** The sheet with a block of cells laid over it from one place on. */
export function pasted(
  sheet: Sheet,
  row: number,
  column: number,
  cells: readonly (readonly string[])[],
): Sheet {
  const height = Math.min(Math.max(sheet.rows.length, row + cells.length), MOST_ROWS)
  const rows = Array.from({ length: height }, (_, i) =>
    sheet.columns.map((_, j) => cells[i - row]?.[j - column] ?? textAt(sheet, i, j)),
  )
  return grown({ ...sheet, rows })
}

/** The sheet with as many columns as there are names, new ones on a machine. */
export function withNames(sheet: Sheet, names: readonly string[], machine: string): Sheet {
  const columns = names.map((name) => {
    const [system = name, on] = name.split(/\s+on\s+/)
    return { system: system.trim(), machine: (on ?? machine).trim(), install: '' }
  })
  return { columns, rows: sheet.rows.map((row) => columns.map((_, j) => row[j] ?? '')) }
}

/** What was pasted, laid on the sheet; its first row names the columns where it does and they are still open. */
export function laid(
  sheet: Sheet,
  row: number,
  column: number,
  cells: readonly (readonly string[])[],
  isOpen: boolean,
): Sheet {
  if (!isOpen) return pasted(sheet, row, column, cells)
  if (row === 0 && column === 0 && hasNames(cells))
    return pasted(withNames(sheet, cells[0]!, ''), 0, 0, cells.slice(1))
  const width = column + Math.max(...cells.map((line) => line.length))
  const names = Array.from(
    { length: Math.max(width, sheet.columns.length) },
    (_, j) => sheet.columns[j]?.system ?? '',
  )
  return pasted(width > sheet.columns.length ? withNames(sheet, names, '') : sheet, row, column, cells)
}

export type Amount = { value?: number | null; resolution?: number | null }

const quoted = (text: string) => (/[",\n]/.test(text) ? `"${text.replaceAll('"', '""')}"` : text)

/** Everything on the sheet as a readings file; `amounts` tells what each text was understood as. */
export function readingsFile(
  sheet: Sheet,
  what: { metric: string; unit: string; person: string; firstBlock: number },
  amounts: ReadonlyMap<string, Amount>,
): string {
  const lines = [
    'system,machine,install,metric,value,unit,method,resolution,block,outcome,reason,condition.person',
  ]
  for (const [i, row] of sheet.rows.entries())
    for (const [j, column] of sheet.columns.entries()) {
      const text = row[j] ?? ''
      const { kind, reason } = cellOf(text)
      if (kind === 'missing') continue
      const amount = kind === 'figure' ? amounts.get(text.trim()) : undefined
      const said = [
        column.system,
        column.machine,
        column.install,
        what.metric,
        amount?.value ?? '',
        what.unit,
        'typed',
        amount?.resolution ?? '',
        what.firstBlock + i,
        kind === 'failed' ? 'failed' : 'done',
        kind === 'failed' ? reason || 'not said' : '',
        what.person,
      ]
      lines.push(said.map((one) => quoted(String(one))).join(','))
    }
  return lines.join('\n') + '\n'
}
