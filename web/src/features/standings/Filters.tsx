import { styled } from '@mui/material/styles'

import type { ReactNode } from 'react'

import type { StandingsPage } from '@/api/standings'
import { Chooser } from '@/ui/Chooser'
import { LinkButton } from '@/ui/kit'
import { useView } from '@/ui/useView'

import { heldName } from './asked'

const Row = styled('div')({
  display: 'flex',
  flexWrap: 'wrap',
  gap: '6px 18px',
  alignItems: 'baseline',
  margin: '8px 0 12px',
})

const NARROWING = ['machine', 'desktop', 'base', 'channel', 'since', 'until', 'newest'] as const

/** By what the list is narrowed; what there is only one of is not asked. */
export function Filters({ page, children }: { page: StandingsPage; children: ReactNode }) {
  const view = useView()
  const { machines, desktops, bases, channels, years } = page.filters
  const one = (name: string, label: string, any: string, values: readonly string[]) =>
    (values.length > 1 || view.get(name)) && (
      <Chooser
        label={label}
        chosen={view.get(name)}
        onChoose={(value) => view.put({ [name]: value })}
        options={[{ id: '', label: any }, ...values.map((value) => ({ id: value, label: value }))]}
      />
    )
  const wholeYears = years.map(String)
  const isNarrowed = NARROWING.some((name) => view.get(name))
  return (
    <Row role="group" aria-label="Narrow the list" className="noprint">
      {children}
      {one('machine', 'measured on', 'every machine', machines)}
      {machines.length > 1 && !view.get('machine') && (
        <Chooser
          label="figures as on"
          chosen={page.machine}
          onChoose={(level) => view.put({ level })}
          options={[...new Set([page.machine, ...machines])].map((id) => ({ id, label: id }))}
        />
      )}
      {one('desktop', 'desktop', 'any', desktops)}
      {one('base', 'base', 'any', bases)}
      {one('channel', 'channel', 'any', channels)}
      {one('since', 'from', 'the first year', wholeYears)}
      {one('until', 'to', 'the last year', wholeYears)}
      <Chooser
        label="releases"
        chosen={view.get('newest')}
        onChoose={(newest) => view.put({ newest })}
        options={[
          { id: '', label: 'all' },
          { id: 'only', label: 'newest only' },
        ]}
      />
      {page.choices.map((choice) => (
        <Chooser
          key={choice.key}
          label={choice.label}
          chosen={choice.held}
          onChoose={(value) => view.put({ [heldName(choice.key)]: value })}
          options={[...new Set([choice.held, ...Object.keys(choice.runs)])].map((value) => ({
            id: value,
            label: `${value} (${choice.runs[value] ?? 0} readings)`,
          }))}
        />
      ))}
      {isNarrowed && (
        <LinkButton onClick={() => view.put(Object.fromEntries(NARROWING.map((name) => [name, ''])))}>
          Show all
        </LinkButton>
      )}
    </Row>
  )
}
