/** What a picture shows, as rows: to be read by keyboard, and to be kept as a file. */
export type Table = { caption: string; head: string[]; rows: (string | number | null)[][] }

const FORMULA = /^[=+\-@\t\r']/
const FIGURE = /^[-+]?[0-9.]+$/

const cell = (value: string | number | null) => {
  const written = value === null ? '' : String(value)
  // a spreadsheet would calculate what begins like a formula
  const text =
    typeof value === 'string' && FORMULA.test(written) && !FIGURE.test(written) ? `'${written}` : written
  return /[",\n]/.test(text) ? `"${text.replaceAll('"', '""')}"` : text
}

/** A table as comma-separated values, one line for each row. */
export const csvOf = (table: Pick<Table, 'head' | 'rows'>) =>
  [table.head, ...table.rows].map((line) => `${line.map(cell).join(',')}\n`).join('')

const FOLD = 0.56

/** Text in as many lines as it takes in a width, letters of so many pixels height. */
export const foldedTo = (text: string, width: number, size: number) =>
  folded(text, Math.floor(width / (size * FOLD)))

/** Text in as many lines as it takes, none longer than `most` letters. */
export function folded(text: string, most: number): string[] {
  const lines: string[] = []
  for (const word of text.split(' ')) {
    const last = lines.at(-1)
    if (last !== undefined && last.length + word.length < most) lines[lines.length - 1] = `${last} ${word}`
    else lines.push(word)
  }
  return lines
}
