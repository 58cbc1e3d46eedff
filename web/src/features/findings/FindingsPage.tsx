import { styled } from '@mui/material/styles'
import { useQuery } from '@tanstack/react-query'
import { useState } from 'react'
import { useOutletContext } from 'react-router'

import { findingsQuery } from '@/api/queries'
import { entrantNames, type StudyContext } from '@/api/studyContext'
import type { FindingRow } from '@/api/types'
import { MIDDLE, Plain } from '@/ui/kit'
import { useShortcuts } from '@/ui/shortcuts'
import { Empty, Failed, Loading } from '@/ui/States'

import { PICTURES, picturesOf } from './pictures/registry'
import { PictureStrip } from './PictureStrip'
import { keepOrder, keptOrder, moved, ordered } from './rowOrder'
import { RowPanel } from './RowPanel'
import { presentSearch, useView } from '@/ui/useView'
import { VerdictSheet } from './VerdictSheet'

const Pictures = styled('div')({ margin: '0 0 10px', '@media print': { margin: 0 } })
const Two = styled('div')({
  display: 'grid',
  gridTemplateColumns: 'minmax(300px,372px) minmax(0,1fr)',
  gap: 20,
  alignItems: 'start',
  [MIDDLE]: { gridTemplateColumns: 'minmax(0,1fr)', '& > :last-child': { order: -1 } },
})

const chosenRow = (rows: readonly FindingRow[], search: URLSearchParams) =>
  rows.find((item) => item.key === search.get('row')) ?? rows[0]

const lanesOf = (row: FindingRow | undefined) =>
  row?.lanes.filter((lane) => lane.summary).map((lane) => lane.lane_no) ?? []

function chosenBaseline(row: FindingRow | undefined, search: URLSearchParams): number {
  const lanes = lanesOf(row)
  const asked = Number(search.get('against'))
  return lanes.includes(asked) ? asked : (lanes[0] ?? 1)
}

const ofVerdict = (rows: readonly FindingRow[], verdict: string | null) => {
  const found = rows.filter((row) => !verdict || row.verdict === verdict)
  return found.length ? found : rows
}

/** The verdict sheet, and the pictures behind the row that is chosen, or of the whole study. */
export function FindingsPage() {
  const { study, sheet } = useOutletContext<StudyContext>()
  const view = useView()
  const withAside = view.get('aside') === 'with'
  const findings = useQuery(findingsQuery(study.id, withAside))
  const [order, setOrder] = useState(() => keptOrder(study.id))
  const all = ordered(findings.data?.rows ?? [], order)
  const rows = ofVerdict(all, view.get('verdict'))
  const row = chosenRow(rows, presentSearch())
  const shared = findings.data && { study, findings: findings.data, sheet, names: entrantNames(study) }
  const pictures = shared ? picturesOf(shared) : []
  const asked = view.get('picture')
  const picture = pictures.find((one) => one.id === asked)

  const choose = (key: string) => view.go({ row: key, picture: '', boot: '' })
  const move = (by: number) => {
    const at = rows.indexOf(chosenRow(rows, presentSearch())!)
    const next = rows[Math.max(0, Math.min(rows.length - 1, at + by))]
    if (next) choose(next.key)
  }
  const turn = () => {
    const now = chosenRow(rows, presentSearch())
    const lanes = lanesOf(now)
    const next = lanes[(lanes.indexOf(chosenBaseline(now, presentSearch())) + 1) % lanes.length]
    if (next !== undefined) view.put({ against: String(next) })
  }
  const rank = (key: string, to: number) => {
    const next = moved(
      all.map((one) => one.key),
      key,
      to,
    )
    setOrder(next)
    keepOrder(study.id, next)
  }
  const shift = (by: number) => {
    const now = chosenRow(rows, presentSearch())
    if (now) rank(now.key, all.indexOf(now) + by)
  }
  const show = (id: string) => view.go({ picture: id, boot: '' })
  const turnPicture = () => {
    const ids = ['', ...pictures.map((one) => one.id)]
    show(ids[(ids.indexOf(presentSearch().get('picture') ?? '') + 1) % ids.length]!)
  }
  const turnAside = () => view.put({ aside: withAside ? '' : 'with' })
  const turnVerdict = () => {
    const verdicts = ['', ...new Set(all.map((one) => one.verdict))]
    view.put({
      verdict: verdicts[(verdicts.indexOf(presentSearch().get('verdict') ?? '') + 1) % verdicts.length]!,
    })
  }
  useShortcuts([
    { key: 'ArrowDown', shown: '↓', says: 'Next verdict', run: () => move(1) },
    { key: 'ArrowUp', shown: '↑', says: 'Verdict before', run: () => move(-1) },
    { key: '+', says: 'This verdict further up', run: () => shift(-1) },
    { key: '-', says: 'This verdict further down', run: () => shift(1) },
    ...(picture ? [] : [{ key: 'b', says: 'Next baseline', run: turn }]),
    { key: 'o', says: 'Another picture', run: turnPicture },
    { key: 'f', says: 'Only one verdict', run: turnVerdict },
    { key: 'w', says: withAside ? 'Without what was set aside' : 'With what was set aside', run: turnAside },
  ])
  if (findings.error) return <Failed error={findings.error} onRetry={() => void findings.refetch()} />
  if (!findings.data || !shared) return <Loading what="the findings" />
  if (!row) {
    return (
      <Empty title="Nothing was measured yet">
        <p>
          {study.can_run
            ? 'Start the study on its Run page; findings appear here as readings come in.'
            : 'Nothing operates these machines: import files of readings, or time them by hand under Timing. Findings appear here as readings come in.'}
        </p>
      </Empty>
    )
  }
  return (
    <>
      <Pictures>
        <PictureStrip
          label="Picture"
          choices={[{ id: '', label: 'One measure' }, ...pictures]}
          chosen={asked}
          keyName="O"
          onChoose={show}
        />
      </Pictures>
      {asked && !picture ? (
        <Missing asked={asked} onBack={() => show('')} />
      ) : picture?.isWide ? (
        <picture.Panel {...shared} />
      ) : (
        <Two>
          <VerdictSheet
            findings={findings.data}
            rows={rows}
            chosen={picture ? '' : row.key}
            verdict={view.get('verdict')}
            withAside={withAside}
            onAside={turnAside}
            onChoose={choose}
            onVerdict={(verdict) => view.put({ verdict })}
            onReliability={() => show('failures')}
            onMove={(key, before) =>
              rank(
                key,
                all.findIndex((one) => one.key === before),
              )
            }
          />
          {picture ? (
            <picture.Panel {...shared} />
          ) : (
            <RowPanel
              key={row.key}
              {...shared}
              row={row}
              baseline={chosenBaseline(row, presentSearch())}
              onBaseline={(lane) => view.put({ against: String(lane) })}
            />
          )}
        </Two>
      )}
    </>
  )
}

/** An address that asks for a picture in vain. */
function Missing({ asked, onBack }: { asked: string; onBack: () => void }) {
  const known = PICTURES.find((one) => one.id === asked)
  return (
    <Empty
      title={known ? `This study has nothing for “${known.label}”` : `There is no picture called “${asked}”`}
    >
      <p>
        {known
          ? 'Nothing was measured that it shows.'
          : 'The address may be mistyped, or from another version.'}{' '}
        Choose one of those above.
      </p>
      <Plain onClick={onBack}>Show one measure</Plain>
    </Empty>
  )
}
