import LinearProgress from '@mui/material/LinearProgress'

import { SoftSmall } from './kit'

type Props = { what: string; done: number; of: number; unit?: string }

const SAID: Record<string, string> = { read: 'Read', kept: 'Kept' }

/** How far something is, as a bar and in words. */
export function Progress({ what, done, of, unit = 'rows' }: Props) {
  const share = of > 0 ? Math.min(100, (100 * done) / of) : 0
  const figure = (number: number) => number.toLocaleString('en-GB')
  return (
    <div role="status">
      <LinearProgress variant="determinate" value={share} aria-label="How far it is" />
      <SoftSmall as="p">
        {SAID[what] ?? what} {figure(done)} of {figure(of)} {unit}
      </SoftSmall>
    </div>
  )
}
