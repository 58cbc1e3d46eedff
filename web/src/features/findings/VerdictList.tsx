import { styled } from '@mui/material/styles'

const RULE = '1px solid var(--hm-rule)'

/** Verdicts one below the other: what was measured, the tag, the sentence. */
export const VerdictList = styled('ul')({
  listStyle: 'none',
  margin: 0,
  padding: 0,
  '& header': { padding: '12px 14px 8px', borderBottom: RULE },
  '& .verdict': {
    display: 'grid',
    gridTemplateColumns: '1fr auto',
    gap: '2px 12px',
    width: '100%',
    textAlign: 'left',
    padding: '8px 14px',
    border: 0,
    borderBottom: RULE,
    background: 'none',
    font: 'inherit',
    color: 'inherit',
  },
  '& button.verdict': { cursor: 'pointer' },
  '& .verdict[aria-current=true]': {
    backgroundColor: 'var(--hm-chosen)',
    boxShadow: 'inset 4px 0 0 var(--hm-rust)',
  },
  '& .what': { fontWeight: 650 },
  '& .says': { gridColumn: '1/3', color: 'var(--hm-soft)', fontSize: 13 },
})
