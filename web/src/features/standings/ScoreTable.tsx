import { styled } from '@mui/material/styles'

import type { Scorecard } from '@/api/scorecards'
import { SCALES, scoreText } from '@/format/scores'

const Grid = styled('table')({
  width: '100%',
  borderCollapse: 'collapse',
  '& td, & th': { padding: '5px 16px', textAlign: 'left', verticalAlign: 'middle' },
  '& td:nth-of-type(1)': { whiteSpace: 'nowrap', fontVariantNumeric: 'tabular-nums' },
  '@media (max-width:600px)': { '& td:last-of-type': { display: 'none' } },
})

const Bar = styled('svg')({ width: '100%', minWidth: 90, height: 14, display: 'block' })

/** Each criterion with its score as a figure and as a length. */
export const ScoreTable = ({ card }: { card: Scorecard }) => (
  <Grid aria-label="Criteria">
    <tbody>
      {card.criteria.map((one) => (
        <tr key={one.name}>
          <th scope="row">{one.name}</th>
          <td>{one.score === null ? 'no score' : scoreText(card.scale.kind, one.score)}</td>
          <td width="34%">
            <Bar viewBox="0 0 100 14" preserveAspectRatio="none" aria-hidden>
              <line x1="0" x2="100" y1="7" y2="7" stroke="var(--hm-line)" strokeWidth="2" />
              {one.score !== null && (
                <rect
                  width={(100 * one.score) / SCALES[card.scale.kind].top}
                  y="2"
                  height="10"
                  fill="var(--hm-ink)"
                />
              )}
            </Bar>
          </td>
          <td>{one.why}</td>
        </tr>
      ))}
    </tbody>
  </Grid>
)
