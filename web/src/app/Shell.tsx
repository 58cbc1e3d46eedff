import { useColorScheme } from '@mui/material/styles'
import useMediaQuery from '@mui/material/useMediaQuery'
import { NavLink, Link, Outlet, useNavigate } from 'react-router'

import { KeyHint } from '@/ui/KeyHint'
import { useShortcuts } from '@/ui/shortcuts'

import { Overheard } from './Overheard'

/** The head of every page. */
export function Shell() {
  const { mode, setMode } = useColorScheme()
  const systemIsDark = useMediaQuery('(prefers-color-scheme: dark)')
  const isDark = mode === 'dark' || (mode === 'system' && systemIsDark)
  const navigate = useNavigate()
  const turn = () => setMode(isDark ? 'light' : 'dark')
  useShortcuts([
    { key: 'T', shown: '⇧ T', says: 'Today', run: () => void navigate('/today') },
    { key: 'S', shown: '⇧ S', says: 'All studies', run: () => void navigate('/studies') },
    { key: 'P', shown: '⇧ P', says: 'People, and what they did', run: () => void navigate('/people') },
    { key: 'M', shown: '⇧ M', says: 'How it is calculated', run: () => void navigate('/methods') },
    { key: 'G', shown: '⇧ G', says: 'Glossary: what the words mean', run: () => void navigate('/glossary') },
    { key: 'L', shown: '⇧ L', says: isDark ? 'Light' : 'Dark', run: turn },
    { key: '?', says: 'These keys', run: () => undefined },
  ])
  return (
    <>
      <header className="head">
        <Link to="/studies" className="word" aria-label="Hare Mile, all studies">
          Hare<b>|</b>Mile
        </Link>
        <nav>
          <NavLink to="/today">Today</NavLink>
          <NavLink to="/studies">Studies</NavLink>
          <NavLink to="/people">People</NavLink>
          <NavLink to="/methods">Methods</NavLink>
          <NavLink to="/glossary">Glossary</NavLink>
        </nav>
        <div className="right">
          <button className="plain" onClick={turn}>
            {isDark ? 'Light' : 'Dark'}
            <KeyHint name="⇧ L" />
          </button>
          <button className="plain" onClick={() => window.dispatchEvent(new Event('haremile-keys'))}>
            Keys
            <KeyHint name="?" />
          </button>
        </div>
      </header>
      <Overheard />
      <Outlet />
    </>
  )
}
