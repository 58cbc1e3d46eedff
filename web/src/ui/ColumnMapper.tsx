import Alert from '@mui/material/Alert'
import Table from '@mui/material/Table'
import TableBody from '@mui/material/TableBody'
import TableCell from '@mui/material/TableCell'
import TableContainer from '@mui/material/TableContainer'
import TableHead from '@mui/material/TableHead'
import TableRow from '@mui/material/TableRow'
import TextField from '@mui/material/TextField'

import {
  meansNothing,
  ofColumn,
  stillMissing,
  withColumn,
  type ColumnMeaning,
  type Meaning,
} from './columnMap'
import { Actions, Small, Soft, SoftSmall } from './kit'
import { Select } from './Select'

type Measure = { metric: string; label: string; units: readonly string[] }

export type Choices = {
  columns: readonly string[]
  required: readonly string[]
  measures: readonly Measure[]
}

export type Columns = {
  file: string
  header: readonly string[]
  rows: readonly (readonly string[])[]
  is_remembered: boolean
}

type Props = { file: Columns; choices: Choices; meaning: Meaning; onChange: (meaning: Meaning) => void }

/** Says what the columns of a table mean: beside each its first values, below what is the same in every row. */
export function ColumnMapper({ file, choices, meaning, onChange }: Props) {
  const missing = stillMissing(meaning, file.header, choices.required)
  const fixed = choices.required.filter(
    (name) => name !== 'value' && (missing.includes(name) || Object.hasOwn(meaning.fixed, name)),
  )
  const fix = (name: string, text: string) =>
    onChange({ ...meaning, fixed: { ...meaning.fixed, [name]: text } })
  return (
    <div>
      <p>
        <b>{file.file}</b> has columns of its own.{' '}
        {file.is_remembered
          ? 'They are read as you said last time; change it where that is not right.'
          : 'Say what they mean; it is remembered for files with the same header.'}
      </p>
      <TableContainer>
        <Table size="small">
          <TableHead>
            <TableRow>
              <TableCell>Column</TableCell>
              <TableCell>First values</TableCell>
              <TableCell>Means</TableCell>
            </TableRow>
          </TableHead>
          <TableBody>
            {file.header.map((name, place) => (
              <TableRow key={name}>
                <TableCell>
                  <b>{name}</b>
                </TableCell>
                <TableCell>
                  <Soft>
                    {file.rows
                      .slice(0, 3)
                      .map((row) => row[place])
                      .filter(Boolean)
                      .join(' · ')}
                  </Soft>
                </TableCell>
                <TableCell>
                  <MeaningOf
                    name={name}
                    found={ofColumn(meaning, name, choices.columns)}
                    choices={choices}
                    onChange={(found) => onChange(withColumn(meaning, name, found))}
                  />
                </TableCell>
              </TableRow>
            ))}
          </TableBody>
        </Table>
      </TableContainer>
      {fixed.length > 0 && (
        <>
          <p>
            <Small>The same in every row:</Small>
          </p>
          <Actions>
            {fixed.map((name) => (
              <TextField
                key={name}
                size="small"
                label={name}
                value={meaning.fixed[name] ?? ''}
                onChange={(event) => fix(name, event.target.value)}
                helperText={HINTS[name]}
              />
            ))}
          </Actions>
        </>
      )}
      {meansNothing(meaning, file.header) && (
        <Alert severity="warning" sx={{ mt: 1 }}>
          No column holds values yet.
        </Alert>
      )}
    </div>
  )
}

const HINTS: Record<string, string> = {
  system: 'for example Varrow 12 Tarnwick',
  machine: 'for example Herbarium laptop',
  metric: 'for example boot.total',
  unit: 'for example s or MiB',
}

const NOTHING = ''
const MEASURE = 'measure:'

type MeaningProps = {
  name: string
  found: ColumnMeaning
  choices: Choices
  onChange: (found: ColumnMeaning) => void
}

function MeaningOf({ name, found, choices, onChange }: MeaningProps) {
  const measure =
    found.kind === 'measure' ? choices.measures.find((one) => one.metric === found.metric) : null
  const choose = (value: string) => {
    if (value === NOTHING) return onChange({ kind: 'nothing' })
    if (!value.startsWith(MEASURE)) return onChange({ kind: 'column', ours: value })
    const metric = value.slice(MEASURE.length)
    const units = choices.measures.find((one) => one.metric === metric)?.units ?? []
    onChange({ kind: 'measure', metric, unit: units[0] ?? '1' })
  }
  return (
    <>
      <Select
        value={
          found.kind === 'measure' ? MEASURE + found.metric : found.kind === 'column' ? found.ours : NOTHING
        }
        onChange={(event) => choose(event.target.value)}
        inputProps={{ 'aria-label': `Meaning of ${name}` }}
      >
        <option value={NOTHING}>left out</option>
        <optgroup label="A column of a readings file">
          {choices.columns.map((ours) => (
            <option key={ours} value={ours}>
              {ours}
            </option>
          ))}
        </optgroup>
        <optgroup label="Values of a measure">
          {choices.measures.map((one) => (
            <option key={one.metric} value={MEASURE + one.metric}>
              {one.label}
            </option>
          ))}
        </optgroup>
      </Select>
      {found.kind === 'measure' && measure && (
        <>
          {' '}
          <SoftSmall>in</SoftSmall>{' '}
          <Select
            value={found.unit}
            onChange={(event) => onChange({ ...found, unit: event.target.value })}
            inputProps={{ 'aria-label': `Unit of ${name}` }}
          >
            {measure.units.map((unit) => (
              <option key={unit} value={unit}>
                {unit === '1' ? 'a count' : unit}
              </option>
            ))}
          </Select>
        </>
      )}
    </>
  )
}
