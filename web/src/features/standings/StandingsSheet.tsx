import { styled } from '@mui/material/styles'

import { embeddedFonts } from '@/api/fonts'
import type { StandingsPage } from '@/api/standings'
import { standingsTable } from '@/charts/layout/standings'
import { StandingsPicture } from '@/charts/StandingsPicture'
import { csvOf } from '@/format/table'
import { DataTable } from '@/ui/DataTable'
import { KeepButtons } from '@/ui/KeepButtons'
import { KeyHint } from '@/ui/KeyHint'
import { Answer, Foot, Headline, Plain, Sheet, WordList } from '@/ui/kit'
import { MethodLink } from '@/ui/MethodLink'
import { useShortcuts } from '@/ui/shortcuts'
import { useView } from '@/ui/useView'
import { useWidth } from '@/ui/useWidth'

import { Apart } from './Apart'
import { Behind } from './Behind'

const Words = styled('div')({ padding: '0 16px 8px', fontSize: 13.5, color: 'var(--hm-soft)' })

type Props = { page: StandingsPage; title: string; onBands: () => void }

/** The list with its answer, what it rests on, and who is not on it. */
export function StandingsSheet({ page, title, onBands }: Props) {
  const [ref, width] = useWidth<HTMLDivElement>(1180)
  const view = useView()
  const isTable = view.get('as') === 'table'
  const turn = () => view.put({ as: isTable ? '' : 'table' })
  const names = page.lines.map((line) => line.standing.system)
  const opened = names.includes(view.get('open')) ? view.get('open') : null
  const open = (system: string) => view.put({ open: system === opened ? '' : system })
  const move = (by: number) => {
    const at = opened === null ? (by > 0 ? -1 : names.length) : names.indexOf(opened)
    const next = names[Math.max(0, Math.min(names.length - 1, at + by))]
    if (next) view.put({ open: next })
  }
  useShortcuts([
    { key: 'a', says: isTable ? 'As a picture' : 'As a table', run: turn },
    { key: 'j', says: 'Next system: the readings behind its place', run: () => move(1) },
    { key: 'k', says: 'The one before', run: () => move(-1) },
  ])
  const record = page.headline.endsWith(' yet')
    ? (names.find((name) => page.headline.startsWith(`${name}: `)) ?? null)
    : null
  const line = page.lines.find((one) => one.standing.system === opened)
  return (
    <Sheet as="section" ref={ref} aria-label={`Standings: ${title}`}>
      <Headline className="headline" sx={{ pt: 1.25 }}>
        {page.headline}
      </Headline>
      <Answer data-testid="answer">{page.beside}</Answer>
      {page.lines.length > 0 &&
        (isTable ? (
          <DataTable table={standingsTable(page)} />
        ) : (
          <StandingsPicture page={page} record={record} opened={opened} width={width} onOpen={open} />
        ))}
      {line && <Behind page={page} line={line} onClose={() => view.put({ open: '' })} />}
      {page.notes.length > 0 && (
        <WordList aria-label="What it rests on">
          {page.notes.map((note) => (
            <li key={note}>{note}</li>
          ))}
          <li>
            Places hold together: all of them at once with 95 % certainty. <MethodLink to="over-studies" />
          </li>
        </WordList>
      )}
      {page.apart.length > 0 && <Apart page={page} />}
      {page.left_out.length > 0 && (
        <Words>
          Not on the list:{' '}
          {page.left_out
            .map((one) => `${one.systems.join(', ')} of “${one.title}” (${one.reason})`)
            .join('; ')}
          .
        </Words>
      )}
      <Foot className="noprint">
        <Plain onClick={turn} aria-pressed={isTable}>
          {isTable ? 'As a picture' : 'As a table'}
          <KeyHint name="A" />
        </Plain>
        <Plain onClick={onBands}>
          Set bands
          <KeyHint name="B" />
        </Plain>
        {page.lines.length > 0 && (
          <KeepButtons
            box={ref}
            fonts={embeddedFonts}
            hasPicture={!isTable}
            name={['standings', title]}
            data={() => csvOf(standingsTable(page))}
            head={[
              page.headline,
              page.beside,
              `${title}; figures as on the ${page.machine}; ${page.studies} studies, ${page.readings} readings`,
            ]}
          />
        )}
      </Foot>
    </Sheet>
  )
}
