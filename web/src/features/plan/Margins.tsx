import { styled } from '@mui/material/styles'
import { useQuery } from '@tanstack/react-query'
import { useState } from 'react'

import { metricsQuery, type Draft } from '@/api/plan'
import type { Schemas } from '@/api/types'
import { TERMS } from '@/format/terms'
import { Box, LinkButton, Soft, SoftSmall } from '@/ui/kit'
import { Term } from '@/ui/Term'

const Lines = styled('div')({
  display: 'grid',
  gridTemplateColumns: 'minmax(0,1fr) auto auto',
  gap: '6px 16px',
  alignItems: 'center',
  marginTop: 6,
})
const Field = styled('label')({ display: 'flex', gap: 6, alignItems: 'center', whiteSpace: 'nowrap' })
const Number_ = styled('input')({
  width: 76,
  font: 'inherit',
  fontVariantNumeric: 'tabular-nums',
  color: 'var(--hm-ink)',
  backgroundColor: 'var(--hm-sheet)',
  border: '1px solid var(--hm-rule)',
  borderRadius: 3,
  padding: '3px 6px',
})

type Line = Schemas['OutlookLine']
type Props = { draft: Draft; lines: readonly Line[]; onChange: (part: Partial<Draft>) => void }

const typedNumber = (text: string) => {
  const value = Number(text)
  return text.trim() && value > 0 ? value : null
}

const MIB = { factor: 2 ** 20, label: 'MiB' }

/** The unit in which a margin is typed: of sizes always the same, whatever the readings are shown in. */
const handy = (unit: string | undefined, scale: { factor: number; label: string }) =>
  unit === 'B' ? MIB : scale

/** The smallest differences that matter, one for each measure; what is usual stands where nothing is typed. */
export function Margins({ draft, lines, onChange }: Props) {
  const [isAll, setAll] = useState(false)
  const metrics = useQuery(metricsQuery())
  const usual = new Map((metrics.data ?? []).map((one) => [one.key, one]))
  const every = [...new Map(lines.map((line) => [line.found.metric, line])).values()]
  const measures = every.filter((line) => isAll || line.is_headline || draft.margins[line.found.metric])
  const set = (key: string, part: { amount?: number | null; share?: number | null }) => {
    const known = usual.get(key)?.margin
    const before = draft.margins[key] ?? { amount: known?.amount ?? null, share: known?.share ?? null }
    const next = { ...before, ...part }
    const margins = { ...draft.margins, [key]: next }
    if (next.amount === null && next.share === null) delete margins[key]
    onChange({ margins })
  }
  if (!every.length) return null
  return (
    <Box as="section" aria-label="What matters">
      <h2>What matters</h2>
      <Soft as="div">
        the smallest difference that counts (<Term says={TERMS.margin.says}>margin</Term>): the wider of both
      </Soft>
      <Lines>
        {measures.map((line) => {
          const key = line.found.metric
          const margin = draft.margins[key] ?? usual.get(key)?.margin
          const { factor, label } = handy(usual.get(key)?.unit, line.scale)
          const shownLabel = usual.get(key)?.label ?? line.label
          return [
            <span key={`${key} name`}>{shownLabel}</span>,
            <Field key={`${key} amount`}>
              <Number_
                key={`${key} ${factor}`}
                aria-label={`${shownLabel}: amount that matters${label ? `, ${label}` : ''}`}
                inputMode="decimal"
                defaultValue={margin?.amount ? String(Number((margin.amount / factor).toPrecision(6))) : ''}
                onChange={(event) => {
                  const value = typedNumber(event.target.value)
                  set(key, { amount: value === null ? null : value * factor })
                }}
              />
              <SoftSmall>{label}</SoftSmall>
            </Field>,
            <Field key={`${key} share`}>
              <Number_
                aria-label={`${shownLabel}: share that matters, per cent`}
                inputMode="decimal"
                defaultValue={margin?.share ? String(Number((margin.share * 100).toPrecision(6))) : ''}
                onChange={(event) => {
                  const value = typedNumber(event.target.value)
                  set(key, { share: value === null ? null : value / 100 })
                }}
              />
              <SoftSmall>%</SoftSmall>
            </Field>,
          ]
        })}
      </Lines>
      {(isAll || measures.length < every.length) && (
        <LinkButton onClick={() => setAll(!isAll)}>
          {isAll ? 'Main measures only' : `${every.length - measures.length} more measures`}
        </LinkButton>
      )}
    </Box>
  )
}
