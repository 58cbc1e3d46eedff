import Alert from '@mui/material/Alert'
import Button from '@mui/material/Button'
import { styled } from '@mui/material/styles'
import { useQuery } from '@tanstack/react-query'
import { useDeferredValue, useEffect, useRef, useState, type FormEvent } from 'react'
import { useLocation, useNavigate, useOutletContext } from 'react-router'

import { amountsQuery } from '@/api/byHand'
import { intakeName } from '@/api/intake'
import { metricsQuery } from '@/api/plan'
import { useImportStudy, useTakeIn } from '@/api/queries'
import type { StudyContext } from '@/api/studyContext'
import type { Study } from '@/api/types'
import { useKept } from '@/ui/kept'
import { count } from '@/format/numbers'
import { KeyHint } from '@/ui/KeyHint'
import { Actions, Main, Sheet, Soft, SoftSmall, TitleBar } from '@/ui/kit'
import { Select } from '@/ui/Select'
import { TextLine } from '@/ui/TextLine'

import {
  cellOf,
  emptySheet,
  laid,
  pastedCells,
  readingsFile,
  textAt,
  withNames,
  written,
  type Amount,
  type Column,
  type Sheet as Figures,
} from './grid'

const Table = styled('table')({
  borderCollapse: 'collapse',
  fontVariantNumeric: 'tabular-nums',
  '& th': { textAlign: 'left', fontWeight: 600, padding: '6px 8px', verticalAlign: 'bottom', maxWidth: 190 },
  '& td': { borderTop: '1px solid var(--hm-rule)', padding: 0, verticalAlign: 'top', minWidth: 120 },
  '& tbody th': { verticalAlign: 'top', borderTop: '1px solid var(--hm-rule)' },
  '& input': {
    width: '100%',
    boxSizing: 'border-box',
    font: 'inherit',
    fontSize: 16,
    padding: '7px 8px 1px',
    border: 0,
    background: 'transparent',
    color: 'var(--hm-ink)',
  },
  '& input:focus': { outline: '2px solid var(--hm-rust)', outlineOffset: -2 },
  '& input[aria-invalid=true]': { color: 'var(--hm-rust)' },
})
const Wide = styled('div')({ overflowX: 'auto' })
const Shown = styled('div')({ fontSize: 12, padding: '0 8px 5px', minHeight: 18, color: 'var(--hm-soft)' })
const Wrong = styled(Shown)({ color: 'var(--hm-rust)', maxWidth: 220 })

const MEASURES = [
  'boot.total',
  'memory.used',
  'disk.used',
  'package.count',
  'launch.settled',
  'install.total',
]
/** In which units a figure may be that names none, the usual one first. */
const UNITS: Record<string, readonly string[]> = {
  s: ['s', 'ms', 'min'],
  B: ['MiB', 'GiB', 'MB', 'GB', 'KiB', 'kB', 'B'],
  share: ['%'],
}
const UNNAMED: Column = { system: '', machine: '', install: '' }
const MOST_UNDO = 100

/** Figures of a study that is there, typed in. */
export function StudyTyping() {
  const { study } = useOutletContext<StudyContext>()
  return <Typing study={study} />
}

/** Figures from nothing: what is typed makes system, machine and study. */
export function TypingPage() {
  return (
    <Main>
      <TitleBar>
        <div>
          <h1>Type figures in</h1>
          <Soft as="div">
            Old figures, or any that you read yourself: they become a picture and a sentence.
          </Soft>
        </div>
      </TitleBar>
      <Typing study={null} />
    </Main>
  )
}

function Typing({ study }: { study: Study | null }) {
  const metrics = useQuery(metricsQuery())
  const [person, setPerson] = useKept('person', '')
  const [metric, setMetric] = useState('boot.total')
  const [chosenUnit, setChosenUnit] = useState('')
  const [title, setTitle] = useState('')
  const [machine, setMachine] = useState('My machine')
  const columnsOf = (one: Study): Column[] =>
    one.contenders.map((each) => ({
      system: each.install.system.name,
      machine: each.install.machine.name,
      install: each.install.name,
    }))
  const brought = (useLocation().state as { pasted?: string } | null)?.pasted
  const [sheet, setSheet] = useState<Figures>(() => {
    const bare = emptySheet(study ? columnsOf(study) : [UNNAMED, UNNAMED])
    return brought ? laid(bare, 0, 0, pastedCells(brought), study === null) : bare
  })
  const [past, setPast] = useState<readonly Figures[]>([])
  const takeIn = useTakeIn(study?.id ?? '')
  const make = useImportStudy()
  const navigate = useNavigate()
  const table = useRef<HTMLTableElement>(null)
  const known = metrics.data?.find((one) => one.key === metric)
  const units = UNITS[known?.unit ?? ''] ?? []
  const bare = units.includes(chosenUnit) ? chosenUnit : (units[0] ?? null)
  const texts = [
    ...new Set(
      sheet.rows
        .flat()
        .filter((text) => cellOf(text).kind === 'figure')
        .map((text) => text.trim()),
    ),
  ]
  const asked = useDeferredValue(texts)
  const read = useQuery(amountsQuery(asked.slice(0, 2000).map((text) => ({ metric, text, unit: bare }))))
  const said = new Map(asked.map((text, i) => [text, read.data?.[i]] as const))
  const faults = texts.filter((text) => said.get(text)?.error)
  const isRead = read.data !== undefined && texts.every((text) => said.get(text))
  const cells = sheet.rows.flat().filter((text) => cellOf(text).kind !== 'missing').length
  const isNamed = sheet.columns.every(
    (one, j) => one.system.trim() || sheet.rows.every((row) => !(row[j] ?? '').trim()),
  )
  const canKeep =
    cells > 0 && isRead && !faults.length && isNamed && person.trim() !== '' && (study || title.trim())

  const change = (next: Figures) => {
    setPast([...past, sheet].slice(-MOST_UNDO))
    setSheet(next)
  }
  const undo = () => {
    const before = past.at(-1)
    if (!before) return
    setSheet(before)
    setPast(past.slice(0, -1))
  }
  const go = (row: number, column: number) =>
    table.current?.querySelector<HTMLInputElement>(`input[data-at="${row}.${column}"]`)?.focus()
  const onKey = (event: React.KeyboardEvent<HTMLInputElement>, row: number, column: number) => {
    const move = { Enter: [1, 0], ArrowDown: [1, 0], ArrowUp: [-1, 0] }[event.key]
    if (move) {
      event.preventDefault()
      go(row + move[0]!, column)
    } else if ((event.ctrlKey || event.metaKey) && event.key === 'z') {
      event.preventDefault()
      undo()
    }
  }
  const onPaste = (event: React.ClipboardEvent, row: number, column: number) => {
    const found = pastedCells(event.clipboardData.getData('text'))
    if (found.length === 1 && found[0]!.length === 1) return
    event.preventDefault()
    change(laid(sheet, row, column, found, study === null))
  }
  const rename = (j: number, system: string) =>
    change({ ...sheet, columns: sheet.columns.map((one, i) => (i === j ? { ...one, system } : one)) })
  const submit = (event: FormEvent) => {
    event.preventDefault()
    const named = {
      ...sheet,
      columns: sheet.columns.map((one) => ({ ...one, machine: one.machine || machine.trim() })),
    }
    const amounts = new Map<string, Amount>([...said].flatMap(([text, one]) => (one ? [[text, one]] : [])))
    const what = {
      metric,
      unit: known?.unit ?? '',
      person: person.trim(),
      firstBlock: study ? study.blocks + 1 : 1,
    }
    const file = new File([readingsFile(named, what, amounts)], 'typed.csv', { type: 'text/csv' })
    if (study)
      takeIn.mutate(
        { files: [file], lanes: [], progress: intakeName() },
        { onSuccess: () => void navigate(`/studies/${study.id}/findings`) },
      )
    else
      make.mutate(
        { title: title.trim(), files: [file], progress: intakeName() },
        { onSuccess: (made) => void navigate(`/studies/${made.study.id}/findings`) },
      )
  }
  const error = metrics.error ?? takeIn.error ?? make.error ?? read.error
  useEffect(() => {
    table.current?.querySelector<HTMLInputElement>('input')?.focus()
  }, [])
  return (
    <form onSubmit={submit}>
      <Actions sx={{ mt: 1.5, alignItems: 'center' }}>
        {!study && (
          <TextLine
            label="The question"
            value={title}
            onChange={setTitle}
            required
            most={160}
            sx={{ width: 280 }}
          />
        )}
        {!study && (
          <TextLine label="Measured on" value={machine} onChange={setMachine} required sx={{ width: 180 }} />
        )}
        <TextLine
          label="Who read them"
          value={person}
          onChange={setPerson}
          required
          most={60}
          sx={{ width: 160 }}
        />
        <label>
          <SoftSmall>Measure </SoftSmall>
          <Select value={metric} onChange={(event) => setMetric(event.target.value)}>
            {[...(metrics.data ?? [])]
              .sort((a, b) => Number(MEASURES.includes(b.key)) - Number(MEASURES.includes(a.key)))
              .map((one) => (
                <option key={one.key} value={one.key}>
                  {one.label}
                </option>
              ))}
          </Select>
        </label>
        {units.length > 0 && (
          <label>
            <SoftSmall>bare figures are </SoftSmall>
            <Select value={bare ?? ''} onChange={(event) => setChosenUnit(event.target.value)}>
              {units.map((one) => (
                <option key={one}>{one}</option>
              ))}
            </Select>
          </label>
        )}
      </Actions>
      <Sheet sx={{ mt: 1.5 }}>
        <Wide>
          <Table ref={table}>
            <thead>
              <tr>
                <th scope="col">
                  <SoftSmall>repeat</SoftSmall>
                </th>
                {sheet.columns.map((one, j) => (
                  <th key={j} scope="col">
                    {study ? (
                      <>
                        {one.system}
                        <SoftSmall as="div">{one.machine}</SoftSmall>
                      </>
                    ) : (
                      <input
                        aria-label={`Contender ${j + 1}`}
                        placeholder={`Contender ${j + 1}`}
                        value={one.system}
                        onChange={(event) => rename(j, event.target.value)}
                      />
                    )}
                  </th>
                ))}
              </tr>
            </thead>
            <tbody>
              {sheet.rows.map((_, i) => (
                <tr key={i}>
                  <th scope="row">{i + 1}</th>
                  {sheet.columns.map((column, j) => {
                    const text = textAt(sheet, i, j)
                    const cell = cellOf(text)
                    const found = said.get(text.trim())
                    return (
                      <td key={j}>
                        <input
                          data-at={`${i}.${j}`}
                          aria-label={`${column.system || `Contender ${j + 1}`}, repeat ${i + 1}`}
                          aria-invalid={Boolean(cell.kind === 'figure' && found?.error)}
                          value={text}
                          maxLength={60}
                          autoComplete="off"
                          onChange={(event) => change(written(sheet, i, j, event.target.value))}
                          onKeyDown={(event) => onKey(event, i, j)}
                          onPaste={(event) => onPaste(event, i, j)}
                        />
                        {cell.kind === 'figure' && found?.error ? (
                          <Wrong>{found.error}</Wrong>
                        ) : (
                          <Shown>
                            {cell.kind === 'failed'
                              ? `a failed run${cell.reason ? '' : ': say why behind it'}`
                              : cell.kind === 'figure' && found?.shown && found.shown !== text.trim()
                                ? found.shown
                                : ''}
                          </Shown>
                        )}
                      </td>
                    )
                  })}
                </tr>
              ))}
            </tbody>
          </Table>
        </Wide>
      </Sheet>
      <Soft as="p">
        As you read them: 1:45, 47 s, 1.18 GiB, 505M. <b>x</b> and a reason is a run that failed; an empty
        cell was not measured. Columns from a spreadsheet are pasted into a cell, their names with them into
        the first. <KeyHint name="Enter" /> goes down, <KeyHint name="Ctrl Z" /> undoes.
      </Soft>
      {error && <Alert severity="error">{error.message}</Alert>}
      <Actions sx={{ alignItems: 'center' }}>
        <Button type="submit" variant="contained" disabled={!canKeep || takeIn.isPending || make.isPending}>
          Keep {count(cells, 'figure')}
        </Button>
        {!study && (
          <Button
            color="inherit"
            variant="outlined"
            onClick={() => change(withNames(sheet, [...sheet.columns.map((one) => one.system), ''], ''))}
          >
            One more contender
          </Button>
        )}
        <Button color="inherit" disabled={!past.length} onClick={undo}>
          Undo
        </Button>
        <SoftSmall role="status">
          {!person.trim()
            ? 'Say who read them.'
            : !study && !title.trim()
              ? 'Say what the question is.'
              : !isNamed
                ? 'Name every contender that has figures.'
                : faults.length
                  ? `${count(faults.length, 'figure')} cannot be read yet.`
                  : ''}
        </SoftSmall>
      </Actions>
    </form>
  )
}
