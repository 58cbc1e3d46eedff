import { keyframes } from '@emotion/react'
import { styled } from '@mui/material/styles'

import { HEADING } from '@/theme/theme'

import { hidden } from './hidden'

export const RULE = '1px solid var(--hm-rule)'
const NARROW = '@media screen and (max-width:600px)'
export const MIDDLE = '@media screen and (max-width:900px)'

/** What a narrow screen leaves out. */
export const WIDE = { [MIDDLE]: { display: 'none' } }

/** The printed sheet on which everything stands. */
export const Sheet = styled('div')({
  backgroundColor: 'var(--hm-sheet)',
  border: RULE,
  borderRadius: 3,
  minWidth: 0,
  '@media print': { border: 0 },
})

/** The same with room around its text. */
export const Box = styled(Sheet)({ padding: '12px 16px' })

export const Main = styled('main')({
  padding: '14px 28px 28px',
  maxWidth: 1600,
  margin: '0 auto',
  [NARROW]: { padding: '12px 12px 24px' },
})

/** A page's title at the left, what it can do at the right. */
export const TitleBar = styled('div')({
  display: 'flex',
  gap: 20,
  alignItems: 'flex-start',
  justifyContent: 'space-between',
  flexWrap: 'wrap',
})

export const Actions = styled('div')({
  display: 'flex',
  gap: 10,
  flexWrap: 'wrap',
  '&.spread': { marginLeft: 'auto' },
})

export const Stack = styled('div')({ display: 'grid', gap: 14, minWidth: 0 })

/** Beside what it belongs to, in the softer ink. */
export const Soft = styled('span')({ color: 'var(--hm-soft)' })

export const SoftSmall = styled(Soft)({ fontSize: 13 })

export const Small = styled('span')({ fontSize: 13 })

/** A deed that is no main one: a word without a border. */
export const Plain = styled('button')({
  background: 'none',
  border: 0,
  padding: 2,
  font: 'inherit',
  color: 'var(--hm-soft)',
  cursor: 'pointer',
  '&:hover': { color: 'var(--hm-ink)' },
})

/** A deed within a line of text. */
export const LinkButton = styled('button')({
  background: 'none',
  border: 0,
  padding: 0,
  font: 'inherit',
  color: 'inherit',
  textDecoration: 'underline',
  cursor: 'pointer',
  textUnderlineOffset: 2,
})

export const PanelTop = styled('div')({
  display: 'flex',
  gap: '6px 12px',
  alignItems: 'baseline',
  flexWrap: 'wrap',
  padding: '12px 16px 6px',
  '& .spread': { marginLeft: 'auto' },
})

/** A paragraph below a panel's top, as far in as that. */
export const Inset = styled('p')({ padding: '0 16px' })

/** The finding, read from two metres. */
export const Headline = styled('p')({
  font: `700 28px/1.15 ${HEADING}`,
  letterSpacing: '-.01em',
  padding: '0 16px 4px',
  margin: 0,
  [NARROW]: { fontSize: 24 },
})

export const Answer = styled('p')({ fontSize: 15, padding: '0 16px 8px', margin: 0, maxWidth: '86ch' })

export const WordList = styled('ul')({
  listStyle: 'none',
  margin: 0,
  padding: '8px 16px',
  fontSize: 13,
  borderTop: RULE,
  '& li': { padding: '1px 0' },
})

export const Foot = styled('div')({
  display: 'flex',
  flexWrap: 'wrap',
  gap: '4px 24px',
  padding: '9px 16px',
  borderTop: RULE,
  color: 'var(--hm-soft)',
  fontSize: 13,
  '& b': { color: 'var(--hm-ink)' },
  '& .spread': { marginLeft: 'auto' },
})

/** Names and what is known of them. */
export const FactList = styled('dl')({
  display: 'grid',
  gridTemplateColumns: 'auto 1fr',
  gap: '3px 14px',
  fontSize: 13,
  margin: '10px 0',
  '& > div': { display: 'contents' },
  '& dt': { color: 'var(--hm-soft)' },
  '& dd': { margin: 0 },
})

const run = keyframes({ from: { backgroundPosition: '-40% 0' }, to: { backgroundPosition: '140% 0' } })

/** Something goes on. */
export const Working = styled('div')({
  height: 3,
  background: 'linear-gradient(90deg,transparent,var(--hm-rust),transparent)',
  backgroundSize: '40% 100%',
  backgroundRepeat: 'no-repeat',
  animation: `${run} 1.2s linear infinite`,
  '@media (prefers-reduced-motion:reduce)': { animation: 'none' },
  '@media print': { display: 'none' },
})

export const Hidden = styled('div')(hidden)

/** What a person should know before reading on. */
export const Banner = styled('p')({
  margin: 0,
  padding: '6px 28px',
  backgroundColor: 'var(--hm-chosen)',
  borderBottom: '2px solid var(--hm-ochre)',
  fontWeight: 600,
})

/** A text that is read from top to bottom. */
export const Prose = styled(Sheet)({
  maxWidth: '84ch',
  margin: '0 auto',
  padding: '18px 26px 30px',
  fontSize: 15,
  '& h1': { margin: '6px 0 10px' },
  '& h2': { fontSize: 20, margin: '26px 0 6px', scrollMarginTop: 12 },
  '& h3': { fontSize: 16, margin: '18px 0 4px', scrollMarginTop: 12 },
  '& table': {
    display: 'block',
    overflowX: 'auto',
    borderCollapse: 'collapse',
    fontSize: 13,
    margin: '10px 0',
    fontVariantNumeric: 'tabular-nums',
  },
  '& td, & th': { padding: '4px 10px', textAlign: 'left', borderBottom: RULE, verticalAlign: 'top' },
  '& th': { color: 'var(--hm-soft)', fontWeight: 600 },
  '& code': {
    font: '13px ui-monospace,monospace',
    backgroundColor: 'var(--hm-paper)',
    padding: '0 3px',
    borderRadius: 2,
  },
  '& pre': { overflowX: 'auto', backgroundColor: 'var(--hm-paper)', border: RULE, padding: '8px 10px' },
})
