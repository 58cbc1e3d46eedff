import Alert from '@mui/material/Alert'
import { styled } from '@mui/material/styles'
import type { UseQueryResult } from '@tanstack/react-query'
import { useState } from 'react'

import type { Draft } from '@/api/plan'
import type { Schemas } from '@/api/types'
import { OutlookPicture } from '@/charts/OutlookPicture'
import { clock, count, duration } from '@/format/numbers'
import { Box, Headline, LinkButton, Soft, SoftSmall, Working } from '@/ui/kit'
import { useNow } from '@/ui/useNow'
import { useWidth } from '@/ui/useWidth'

import { details, headline, told } from './outlookWords'

const Big = styled(Headline)({ padding: '4px 0 6px' })
const Costs = styled(Box)({ display: 'grid', gridTemplateColumns: '1fr 1fr', gap: 16 })
const Figure = styled('div')({ fontSize: 26, fontWeight: 700, fontVariantNumeric: 'tabular-nums' })
const Details = styled('ul')({ margin: '6px 0 0', paddingLeft: 18, fontSize: 13 })

type Outlook = Schemas['Outlook']
type Props = { draft: Draft; found: UseQueryResult<Outlook> }

/** What the plan will tell and what it costs, while it is typed. */
export function OutlookBox({ draft, found }: Props) {
  const [ref, width] = useWidth<HTMLDivElement>(560)
  const [isAll, setAll] = useState(false)
  const isPossible = draft.installs.length > 0 && draft.procedures.length > 0
  const outlook = isPossible ? found.data : undefined
  const isOne = outlook ? outlook.verdicts === 0 : false
  const shown = outlook?.lines.filter((line) => isAll || line.is_headline) ?? []
  const others = (outlook?.lines.length ?? 0) - shown.length
  return (
    <Box as="section" aria-label="What it will tell" aria-live="polite">
      <div ref={ref} />
      <h2>What it will tell</h2>
      {found.isFetching && <Working role="status" aria-label="Working it out" />}
      {found.error && isPossible && <Alert severity="error">{found.error.message}</Alert>}
      {!isPossible && (
        <Soft as="p">Choose contenders and what is measured: then it is said here what can be told.</Soft>
      )}
      {outlook && (
        <>
          <Big as="p">{headline(outlook.lines, isOne)}</Big>
          <OutlookPicture
            lines={shown}
            said={shown.map((line) => `${told(line, isOne)}; ${line.found.machine}`)}
            width={width}
          />
          <details>
            <summary>From what it is known</summary>
            <Details>
              {shown.map((line) => (
                <li key={`${line.found.machine} ${line.label}`}>{details(line)}</li>
              ))}
            </Details>
          </details>
          {(others > 0 || isAll) && (
            <LinkButton onClick={() => setAll(!isAll)}>
              {isAll ? 'Main measures only' : `${others} more measures`}
            </LinkButton>
          )}
          {outlook.verdicts > 0 && (
            <SoftSmall as="p">
              {count(outlook.verdicts, 'verdict')} on pairs; at most{' '}
              {outlook.false_ones.toFixed(2).replace(/0$/, '')} rows with a false one are to be expected.
            </SoftSmall>
          )}
        </>
      )}
    </Box>
  )
}

/** Hours of each machine, and when it will be done. */
export function CostBox({ draft, found }: Props) {
  const outlook = draft.installs.length && draft.procedures.length ? found.data : undefined
  const now = useNow(true)
  if (!outlook) return null
  return (
    <Costs as="section" aria-label="What it costs">
      <div>
        <h2>Runs</h2>
        <Figure>{outlook.costs.reduce((sum, one) => sum + one.runs, 0)}</Figure>
        {outlook.costs.map((one) => (
          <SoftSmall as="div" key={one.machine}>
            {one.machine}: {count(one.runs, 'run')}, about {duration(one.seconds)}
            {one.from_past ? '' : ' (as such runs usually take)'}
            {one.turns > 0 &&
              `; turned by hand ${count(one.turns, 'time')}${one.turns_in_blocks > one.turns ? `, in shuffled blocks up to ${one.turns_in_blocks}` : ''}`}
          </SoftSmall>
        ))}
      </div>
      <div>
        <h2>Done, if started now</h2>
        <Figure>{doneAt(now + outlook.seconds * 1000, now)}</Figure>
        <SoftSmall>
          {duration(outlook.seconds)}
          {outlook.costs.length > 1 ? `; it waits longest for ${outlook.waits_for}` : ''}
        </SoftSmall>
      </div>
    </Costs>
  )
}

function doneAt(atMs: number, nowMs: number): string {
  const days = Math.floor(atMs / 86_400_000) - Math.floor(nowMs / 86_400_000)
  if (days === 0) return clock(atMs)
  if (days === 1) return `tomorrow ${clock(atMs)}`
  return `${new Date(atMs).toLocaleDateString('en-GB', { day: 'numeric', month: 'short' })} ${clock(atMs)}`
}
