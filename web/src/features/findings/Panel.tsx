import { type ReactNode } from 'react'

import { embeddedFonts } from '@/api/fonts'
import type { Study } from '@/api/types'
import { csvOf, type Table } from '@/format/table'
import { METHODS } from '@/format/terms'
import { DataTable } from '@/ui/DataTable'
import { KeyHint } from '@/ui/KeyHint'
import { Answer, Foot, Headline, PanelTop, Plain, Sheet, Soft } from '@/ui/kit'
import { useShortcuts } from '@/ui/shortcuts'
import { Term } from '@/ui/Term'
import { useWidth } from '@/ui/useWidth'

import { KeepButtons } from '@/ui/KeepButtons'
import { useView } from '@/ui/useView'

type Props = {
  study: Study
  /** What is shown, as the sheet names it. */
  title: string
  /** Unit, machine, method, number of runs. */
  about: string
  /** How its readings were taken. */
  method?: string
  headline: string
  says: string
  table: Table
  /** What is kept as data, where that is more than the table. */
  data?: () => string
  controls?: ReactNode
  children: (width: number) => ReactNode
  /** Below the picture. */
  after?: ReactNode
}

/** A picture that stands on its own: its finding as title, as a table on demand, and kept in one step. */
export function Panel({
  study,
  title,
  about,
  method,
  headline,
  says,
  table,
  data,
  controls,
  children,
  after,
}: Props) {
  const [ref, width] = useWidth<HTMLDivElement>(828)
  const view = useView()
  const isTable = view.get('as') === 'table'
  const turn = () => view.put({ as: isTable ? '' : 'table' })
  useShortcuts([{ key: 'a', says: isTable ? 'As a picture' : 'As a table', run: turn }])
  return (
    <Sheet as="section" ref={ref} aria-label={title}>
      <PanelTop>
        <h2>{title}</h2>
        <Soft>
          {about}
          {method && (
            <>
              , <Term says={METHODS[method] ?? ''}>{method.replaceAll('-', ' ')}</Term>
            </>
          )}
        </Soft>
        {controls}
      </PanelTop>
      <Headline className="headline">{headline}</Headline>
      <Answer data-testid="answer">{says}</Answer>
      {isTable ? <DataTable table={table} /> : children(width)}
      {after}
      <Foot className="noprint">
        <Plain onClick={turn} aria-pressed={isTable}>
          {isTable ? 'As a picture' : 'As a table'}
          <KeyHint name="A" />
        </Plain>
        <KeepButtons
          fonts={embeddedFonts}
          box={ref}
          hasPicture={!isTable}
          name={[study.title, title]}
          data={data ?? (() => csvOf(table))}
          head={[
            headline,
            says,
            [title, about, method?.replaceAll('-', ' '), study.title].filter(Boolean).join('; '),
          ]}
        />
      </Foot>
    </Sheet>
  )
}
