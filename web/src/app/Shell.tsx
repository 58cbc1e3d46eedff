import { styled, useColorScheme } from '@mui/material/styles'
import useMediaQuery from '@mui/material/useMediaQuery'
import { useState } from 'react'
import { NavLink, Link, Outlet, useNavigate } from 'react-router'

import { HEADING } from '@/theme/theme'
import { KeyHint } from '@/ui/KeyHint'
import { Plain } from '@/ui/kit'
import { later } from '@/ui/later'
import { useShortcuts } from '@/ui/shortcuts'

import { DiskWord, Overheard } from './Notices'
import { PAGES } from './pages'

const Finder = later(() => import('./Finder').then((module) => module.Finder), 'dialog')

const Head = styled('header')({
  display: 'flex',
  alignItems: 'baseline',
  gap: 28,
  padding: '12px 28px 8px',
  borderBottom: '1px solid var(--hm-rule)',
  '& nav a': {
    marginRight: 20,
    color: 'var(--hm-soft)',
    textDecoration: 'none',
    fontWeight: 500,
    paddingBottom: 3,
  },
  '& nav a.active': { color: 'var(--hm-ink)', borderBottom: '2px solid var(--hm-rust)' },
  '& .word': {
    font: `700 20px ${HEADING}`,
    letterSpacing: '-.01em',
    textDecoration: 'none',
    '& b': { color: 'var(--hm-rust)' },
  },
  '& .right': { marginLeft: 'auto', display: 'flex', gap: 14, alignItems: 'baseline', fontSize: 13 },
  '@media screen and (max-width:600px)': {
    padding: '10px 12px 8px',
    gap: '4px 14px',
    flexWrap: 'wrap',
    '& nav': { display: 'flex', flexWrap: 'wrap', rowGap: 4 },
    '& nav a': { marginRight: 11 },
    '& .right': { gap: 8 },
    '& .right button:last-child': { display: 'none' },
  },
  '@media print': { display: 'none' },
})

/** The head of every page. */
export function Shell() {
  const { mode, setMode } = useColorScheme()
  const systemIsDark = useMediaQuery('(prefers-color-scheme: dark)')
  const isDark = mode === 'dark' || (mode === 'system' && systemIsDark)
  const navigate = useNavigate()
  const [isFinding, setFinding] = useState(false)
  const turn = () => setMode(isDark ? 'light' : 'dark')
  useShortcuts([
    ...PAGES.map(({ path, key, says }) => ({
      key,
      shown: `⇧ ${key}`,
      says,
      run: () => void navigate(`/${path}`),
    })),
    { key: 'L', shown: '⇧ L', says: isDark ? 'Light' : 'Dark', run: turn },
    { key: '/', says: 'Find a study, system, machine or page', run: () => setFinding(true) },
    { key: '?', says: 'These keys', run: () => undefined },
  ])
  return (
    <>
      <Head>
        <Link to="/studies" className="word" aria-label="Hare Mile, all studies">
          Hare<b>|</b>Mile
        </Link>
        <nav>
          {PAGES.map(({ path, label }) => (
            <NavLink key={path} to={`/${path}`}>
              {label}
            </NavLink>
          ))}
        </nav>
        <div className="right">
          <Plain onClick={() => setFinding(true)}>
            Find
            <KeyHint name="/" />
          </Plain>
          <Plain onClick={turn}>
            {isDark ? 'Light' : 'Dark'}
            <KeyHint name="⇧ L" />
          </Plain>
          <Plain onClick={() => window.dispatchEvent(new Event('haremile-keys'))}>
            Keys
            <KeyHint name="?" />
          </Plain>
        </div>
      </Head>
      <Overheard />
      <DiskWord />
      {isFinding && <Finder pages={PAGES} onClose={() => setFinding(false)} />}
      <Outlet />
    </>
  )
}
