import { styled } from '@mui/material/styles'
import { useQuery } from '@tanstack/react-query'

import { overTimeQuery, type Noun } from '@/api/things'
import { OverTimePicture } from '@/charts/OverTimePicture'
import { Inset, PanelTop, Sheet, Soft, SoftSmall } from '@/ui/kit'
import { Failed, Loading } from '@/ui/States'
import { useWidth } from '@/ui/useWidth'

const Row = styled('div')({ padding: '4px 16px 8px' })

/** The main measures of a system or a machine, study after study. */
export function OverTime({ noun, thing }: { noun: Noun; thing: string }) {
  const rows = useQuery(overTimeQuery(noun, thing))
  const [ref, width] = useWidth<HTMLDivElement>(1180)
  return (
    <Sheet as="section" aria-label="Over time" sx={{ mt: 1.75 }}>
      <PanelTop>
        <h2>Over time</h2>
        <Soft>medians of its main measures, study after study; the stretch is the interval</Soft>
      </PanelTop>
      {rows.isPending && <Loading what="its studies" />}
      {rows.error && <Failed error={rows.error} onRetry={() => void rows.refetch()} />}
      {rows.data?.length === 0 && <Inset>Nothing was measured of it yet.</Inset>}
      <Row>
        <div ref={ref} />
      </Row>
      {rows.data?.map((row) => (
        <Row key={`${row.metric} ${row.other} ${row.method} ${row.medium}`}>
          <b>{row.label}</b>{' '}
          <SoftSmall>{[row.other, row.medium, row.method].filter(Boolean).join(', ')}</SoftSmall>
          <OverTimePicture row={row} width={width} />
        </Row>
      ))}
    </Sheet>
  )
}
