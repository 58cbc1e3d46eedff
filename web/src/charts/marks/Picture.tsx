import { styled } from '@mui/material/styles'

/** The ground of every picture: its letters, soft and strong. */
export const Picture = styled('svg')({
  display: 'block', width: '100%', overflow: 'visible',
  '& text': { fontFamily: "'Public Sans Variable',sans-serif", fill: 'var(--hm-ink)' },
  '& .soft': { fill: 'var(--hm-soft)' },
  '& .strong': { fontWeight: 650 },
})
