import { styled } from '@mui/material/styles'
import { useQuery } from '@tanstack/react-query'

import { outlookQuery } from '@/api/queries'
import type { Schemas } from '@/api/types'
import { amount, count, duration } from '@/format/numbers'
import { Box, Soft, SoftSmall, Working } from '@/ui/kit'

import type { Plan } from './planForm'

const Told = styled('p')({ margin: '6px 0' })

type Line = Schemas['OutlookLine']

/** What the plan will tell and what it costs, while it is typed. */
export function OutlookBox({ plan }: { plan: Plan | null }) {
  const found = useQuery(outlookQuery(plan))
  if (!plan) return <Soft as="p">Choose contenders: then it is said here what the plan will tell.</Soft>
  return (
    <Box as="section" aria-label="What it will tell" aria-live="polite">
      <b>What it will tell</b>
      {found.isFetching && <Working role="status" aria-label="Working it out" />}
      {found.error && <p>{found.error.message}</p>}
      {found.data?.lines.map((line) => (
        <Told key={`${line.found.machine} ${line.label}`}>
          {line.label}
          <SoftSmall>, {line.found.machine}</SoftSmall>
          <br />
          {said(line)}
        </Told>
      ))}
      {found.data && <Cost outlook={found.data} />}
    </Box>
  )
}

function said({ found, scale }: Line): string {
  if (found.spread === null)
    return `Not known: ${found.readings ? `only ${count(found.readings, 'reading')}` : 'no readings'} of it on this machine. Run a few blocks first.`
  const from = `from ${count(found.readings, 'reading')} of ${count(found.installs, 'install')}, which scatter by ${amount(found.spread, scale)}`
  if (found.margin === null) return `No margin is stated, so no verdict can be read; ${from}.`
  const told =
    found.smallest === null
      ? 'Too few repeats for any verdict'
      : `A difference of ${amount(found.smallest, scale)} is called nine times in ten`
  const level =
    found.level_repeats === null ? '“level” never' : `“level” takes ${count(found.level_repeats, 'repeat')}`
  return `${told}; ${level} (margin ${amount(found.margin, scale)}; ${from}).`
}

function Cost({ outlook }: { outlook: Schemas['Outlook'] }) {
  const falseOnes = outlook.false_ones.toFixed(2).replace(/0$/, '')
  return (
    <SoftSmall as="p" sx={{ m: 0 }}>
      {outlook.costs.map((one) => (
        <span key={one.machine}>
          {one.machine}: {count(one.runs, 'run')}, about {duration(one.seconds)}
          {one.from_past ? '' : ' (as such runs usually take)'}.{' '}
        </span>
      ))}
      {outlook.verdicts > 0 &&
        `${count(outlook.verdicts, 'pair')} judged in these measures, ${falseOnes} false rows to be expected at most. Below 12 repeats it keeps somewhat less than it promises.`}
    </SoftSmall>
  )
}
