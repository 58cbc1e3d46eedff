import { styled } from '@mui/material/styles'
import { useQuery } from '@tanstack/react-query'

import { stepsQuery } from '@/api/queries'
import type { FindingRow, Study } from '@/api/types'
import { Plain, RULE, Soft } from '@/ui/kit'
import { KeyHint } from '@/ui/KeyHint'
import { useShortcuts } from '@/ui/shortcuts'
import { Failed, Loading } from '@/ui/States'
import { useView } from '@/ui/useView'

const Whole = styled('section')({ borderTop: RULE, padding: '8px 16px' })
const Pair = styled('div')({ marginTop: 12, maxWidth: '78ch', '& h3': { fontSize: 14, margin: '0 0 4px' } })
const StepList = styled('dl')({
  display: 'grid',
  gridTemplateColumns: 'minmax(84px, max-content) 1fr',
  gap: '4px 16px',
  margin: 0,
  fontSize: 14,
  '& dt': { fontWeight: 600 },
  '& dd': { margin: 0 },
})

type Props = { study: Study; row: FindingRow; baseline: number; names: ReadonlyMap<number, string> }

/** Each verdict against the baseline, unfolded into its steps with their figures. */
export function Steps(props: Props) {
  const view = useView()
  const isOpen = view.get('steps') === 'shown'
  const toggle = () => view.put({ steps: isOpen ? '' : 'shown' })
  useShortcuts([{ key: 'i', says: isOpen ? 'Hide how it came to this' : 'How it came to this', run: toggle }])
  if (!props.row.pairs.length) return null
  return (
    <Whole className="noprint">
      <Plain aria-expanded={isOpen} onClick={toggle}>
        How it came to this
        <KeyHint name="I" />
      </Plain>
      {isOpen && <Unfolded {...props} />}
    </Whole>
  )
}

function Unfolded({ study, row, baseline, names }: Props) {
  const found = useQuery(stepsQuery(study.id, row.key, baseline))
  if (found.error) return <Failed error={found.error} onRetry={() => void found.refetch()} />
  if (!found.data) return <Loading what="the steps" />
  if (!found.data.length) return <Soft as="p">Nothing was compared here.</Soft>
  return found.data.map((pair) => (
    <Pair key={pair.b}>
      <h3>
        {names.get(pair.b)} against {names.get(baseline)}
      </h3>
      <StepList>
        {pair.steps.map((step) => [
          <dt key={`${step.title} title`}>{step.title}</dt>,
          <dd key={step.title}>{step.text}</dd>,
        ])}
      </StepList>
    </Pair>
  ))
}
