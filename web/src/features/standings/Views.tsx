import { styled } from '@mui/material/styles'
import { NavLink, useNavigate } from 'react-router'

import { KeyHint } from '@/ui/KeyHint'
import { useShortcuts } from '@/ui/shortcuts'

const VIEWS = [
  { to: '/standings', label: 'Places', key: 'p', says: 'Places of one measure' },
  { to: '/standings/totals', label: 'Totals', key: 'o', says: 'Totals: several measures as one index' },
  { to: '/standings/series', label: 'Series', key: 'v', says: 'Series: over releases and months' },
  { to: '/standings/incidents', label: 'Incidents', key: 'i', says: 'Incidents per 100 hours in use' },
  { to: '/standings/scorecards', label: 'Scorecards', key: 'c', says: 'Scorecards, and what works' },
  { to: '/standings/fits', label: 'For a machine', key: 'f', says: 'Which system for this machine' },
] as const

const Row = styled('nav')({
  display: 'flex',
  flexWrap: 'wrap',
  gap: '2px 18px',
  marginTop: 6,
  '& a': { color: 'var(--hm-soft)', textDecoration: 'none', fontWeight: 600 },
  '& a.active': { color: 'var(--hm-ink)', borderBottom: '2px solid var(--hm-rust)' },
})

/** What else can be seen of everything that was measured. */
export function Views() {
  const navigate = useNavigate()
  useShortcuts(VIEWS.map(({ to, key, says }) => ({ key, says, run: () => void navigate(to) })))
  return (
    <Row aria-label="Views of the standings" className="noprint">
      {VIEWS.map(({ to, label, key }) => (
        <NavLink key={to} to={to} end={to === '/standings'}>
          {label} <KeyHint name={key.toUpperCase()} />
        </NavLink>
      ))}
    </Row>
  )
}
