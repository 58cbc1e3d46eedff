import LinearProgress from '@mui/material/LinearProgress'

/** How much of something is done, as a bar. */
export const Share = ({ of, says }: { of: number; says: string }) => (
  <LinearProgress variant="determinate" value={Math.min(100, 100 * of)} aria-label={says} sx={{ mt: 0.6 }} />
)
