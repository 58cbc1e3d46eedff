import { styled } from '@mui/material/styles'
import { useQuery } from '@tanstack/react-query'

import { tailsQuery } from '@/api/queries'
import type { FindingRow, Study } from '@/api/types'
import { Plain, RULE, Soft, SoftSmall } from '@/ui/kit'
import { KeyHint } from '@/ui/KeyHint'
import { useShortcuts } from '@/ui/shortcuts'
import { Failed, Loading } from '@/ui/States'
import { useView } from '@/ui/useView'

const Whole = styled('section')({ borderTop: RULE, padding: '8px 16px' })
const Table = styled('table')({
  borderCollapse: 'collapse',
  fontSize: 14,
  marginTop: 8,
  '& th, & td': { textAlign: 'left', padding: '4px 20px 4px 0', verticalAlign: 'top', borderBottom: RULE },
  '& th': { fontWeight: 600 },
})

type Props = { study: Study; row: FindingRow; baseline: number; names: ReadonlyMap<number, string> }

/** Differences of means and of the worst tenth against the baseline, where they are asked for. */
export function Tails(props: Props) {
  const view = useView()
  const isOpen = view.get('tails') === 'shown'
  const toggle = () => view.put({ tails: isOpen ? '' : 'shown' })
  const worst = props.row.good_end === 'low' ? 'slowest or largest' : 'worst'
  useShortcuts([
    { key: 'm', says: isOpen ? 'Hide means and worst tenth' : 'Means and worst tenth', run: toggle },
  ])
  if (!props.row.pairs.length) return null
  return (
    <Whole className="noprint">
      <Plain aria-expanded={isOpen} onClick={toggle}>
        Means and worst tenth
        <KeyHint name="M" />
      </Plain>
      {isOpen && (
        <>
          <Differences {...props} />
          <SoftSmall as="p">
            Of means (Welch), and of the reading that the {worst} tenth lies beyond; 95 % of such studies hold
            all intervals, and the verdicts go by the margin of this measure.
          </SoftSmall>
        </>
      )}
    </Whole>
  )
}

function Differences({ study, row, baseline, names }: Props) {
  const found = useQuery(tailsQuery(study.id, row.key, baseline))
  if (found.error) return <Failed error={found.error} onRetry={() => void found.refetch()} />
  if (!found.data) return <Loading what="the differences" />
  if (!found.data.length) return <Soft as="p">Nothing was compared here.</Soft>
  return (
    <Table aria-label="Means and worst tenth">
      <thead>
        <tr>
          <th scope="col">Against {names.get(baseline)}</th>
          <th scope="col">Mean</th>
          <th scope="col">Worst tenth</th>
        </tr>
      </thead>
      <tbody>
        {found.data.map((lane) => (
          <tr key={lane.lane_no}>
            <th scope="row">{names.get(lane.lane_no)}</th>
            <td>{lane.means.said}</td>
            <td>{lane.worst_tenth.said}</td>
          </tr>
        ))}
      </tbody>
    </Table>
  )
}
