import { styled } from '@mui/material/styles'
import { useQuery } from '@tanstack/react-query'

import { metricsQuery } from '@/api/plan'
import type { Study } from '@/api/types'
import { FactList, MIDDLE, Sheet, Soft } from '@/ui/kit'

import { isEveryBlock, STARTS } from './draft'
import { Notes } from './Notes'

const Two = styled('div')({
  display: 'grid',
  gridTemplateColumns: 'minmax(0,3fr) minmax(0,2fr)',
  gap: 14,
  marginTop: 14,
  alignItems: 'start',
  [MIDDLE]: { gridTemplateColumns: 'minmax(0,1fr)' },
})

/** What was planned; it stands since the first run. */
export function StandingPlan({ study }: { study: Study }) {
  const metrics = useQuery(metricsQuery())
  const labels = new Map((metrics.data ?? []).map((one) => [one.key, one.label]))
  const margins = Object.entries(study.margins)
  const planned = study.procedures.length > 0
  return (
    <Two>
      <Sheet as="section" aria-label="The plan" sx={{ padding: '12px 16px' }}>
        <h2>The plan</h2>
        <Soft as="div">
          {planned
            ? 'it stands since the study was started; repeats can be added once it is done'
            : 'there was none: its readings were brought in'}
        </Soft>
        <FactList>
          <Fact name="Contenders">{study.contenders.map((one) => one.label).join(' · ')}</Fact>
          {planned && <Fact name="In each block">{study.procedures.map(procedureWords).join(' · ')}</Fact>}
          <Fact name="Repeats">{study.blocks} of each contender</Fact>
          {planned && <Fact name="Order">{orderWords(study)}</Fact>}
          {study.interim_looks && (
            <Fact name="Verdicts are read">
              {isEveryBlock(study.interim_looks.planned)
                ? `after every block, up to ${study.interim_looks.planned.length}; it ends once all that it asks is decided`
                : `after blocks ${study.interim_looks.planned.join(', ')}`}
            </Fact>
          )}
          {study.stopping && (
            <Fact name="Stops">
              as soon as every difference in {labels.get(study.stopping.metric) ?? study.stopping.metric} is
              known closely enough
            </Fact>
          )}
          <Fact name="Margins stated">
            {margins.length
              ? margins.map(([key]) => labels.get(key) ?? key).join(' · ') + '; the others are the usual ones'
              : 'none; the usual ones hold'}
          </Fact>
        </FactList>
      </Sheet>
      <Notes study={study} />
    </Two>
  )
}

const Fact = ({ name, children }: { name: string; children: React.ReactNode }) => (
  <div>
    <dt>{name}</dt>
    <dd>{children}</dd>
  </div>
)

function procedureWords(text: string): string {
  const [name = '', first = '', second = ''] = text.split(':')
  if (name === 'launch') {
    const start = STARTS.find((one) => one.value === (second || 'warm'))
    return `launch of ${first}, ${start?.label ?? second}`
  }
  if (name === 'least-memory') return `least memory${first ? ` (${first} MiB)` : ''}`
  return name
}

const orderWords = (study: Study) =>
  study.order === 'visits'
    ? 'in visits, one contender after the other, with a return to the first'
    : `shuffled blocks, drawn from seed ${study.seed}`
