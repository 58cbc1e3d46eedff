import { styled } from '@mui/material/styles'
import { useQuery } from '@tanstack/react-query'

import { noiseQuery } from '@/api/queries'
import type { FindingRow, Schemas, Study } from '@/api/types'
import type { NoiseShare } from '@/charts/layout/noise'
import { NoisePicture } from '@/charts/NoisePicture'
import { Headline, Plain, RULE, SoftSmall } from '@/ui/kit'
import { KeyHint } from '@/ui/KeyHint'
import { useShortcuts } from '@/ui/shortcuts'
import { Failed, Loading } from '@/ui/States'
import { useView } from '@/ui/useView'
import { useWidth } from '@/ui/useWidth'

const Whole = styled('section')({ borderTop: RULE, padding: '8px 16px' })
const Advice = styled('ul')({ margin: '8px 0 4px', paddingLeft: 18, fontSize: 14, maxWidth: '78ch' })

type Props = { study: Study; row: FindingRow }

/** Where the noise of a measure sits, and what would make the next study shorter. */
export function Noise({ study, row }: Props) {
  const view = useView()
  const isOpen = view.get('noise') === 'shown'
  const toggle = () => view.put({ noise: isOpen ? '' : 'shown' })
  useShortcuts([
    { key: 'u', says: isOpen ? 'Hide where the noise sits' : 'Where the noise sits', run: toggle },
  ])
  return (
    <Whole className="noprint">
      <Plain aria-expanded={isOpen} onClick={toggle}>
        Where the noise sits
        <KeyHint name="U" />
      </Plain>
      {isOpen && <Budget study={study} row={row} />}
    </Whole>
  )
}

function Budget({ study, row }: Props) {
  const [ref, width] = useWidth<HTMLDivElement>(720)
  const found = useQuery(noiseQuery(study.id, row.key))
  return (
    <div ref={ref}>
      {found.error ? (
        <Failed error={found.error} onRetry={() => void found.refetch()} />
      ) : found.data ? (
        <Told noise={found.data} width={width} />
      ) : (
        <Loading what="the noise" />
      )}
    </div>
  )
}

type Told = Omit<Schemas['RowNoise'], 'parts'> & { parts: readonly NoiseShare[] }

function Told({ noise, width }: { noise: Told; width: number }) {
  const { headline, parts, advice, blocks, lanes, scale } = noise
  return (
    <>
      <Headline as="h3">{headline}</Headline>
      {parts.length > 0 && (
        <>
          <NoisePicture parts={parts} scale={scale} width={width} />
          <SoftSmall as="p">
            Standard deviations with 95 % intervals, from {blocks} complete blocks of {lanes}.
          </SoftSmall>
          <h4>What would make the next study shorter</h4>
          <Advice>
            {advice.map((one) => (
              <li key={one}>{one}</li>
            ))}
          </Advice>
        </>
      )}
    </>
  )
}
