import { styled } from '@mui/material/styles'

/** A tag before each sentence. */
export const FairGrid = styled('div')({
  display: 'grid',
  gridTemplateColumns: 'auto 1fr',
  gap: '6px 12px',
  alignItems: 'baseline',
  margin: '8px 0 0',
  '& > div': { display: 'contents' },
  '& .tag': { justifySelf: 'start' },
})
