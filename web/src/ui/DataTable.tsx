import type { Table } from '@/format/table'

const shown = (value: string | number | null) => (typeof value === 'number' ? Number(value.toPrecision(6)) : (value ?? ''))

/** What a picture shows, as a table. */
export const DataTable = ({ table }: { table: Table }) => (
  <div className="scroll" tabIndex={0} role="group" aria-label={table.caption}>
    <table className="rows">
      <caption className="hidden">{table.caption}</caption>
      <thead>
        <tr>{table.head.map((name) => <th key={name}>{name}</th>)}</tr>
      </thead>
      <tbody>
        {table.rows.map((row, i) => (
          <tr key={i}>
            {row.map((value, k) => (
              <td key={table.head[k]} className={typeof value === 'number' ? 'r' : ''}>{shown(value)}</td>
            ))}
          </tr>
        ))}
      </tbody>
    </table>
  </div>
)
