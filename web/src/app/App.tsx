import GlobalStyles from '@mui/material/GlobalStyles'
import { ThemeProvider } from '@mui/material/styles'
import { QueryClient, QueryClientProvider } from '@tanstack/react-query'
import { BrowserRouter, Navigate, Route, Routes } from 'react-router'

import { theme } from '@/theme/theme'
import { dark, light, variables } from '@/theme/tokens'
import { later } from '@/ui/later'
import { ShortcutProvider } from '@/ui/ShortcutProvider'

import { NotHere } from './NotHere'
import { Shell } from './Shell'

/** The page that the address asks for: its parts are fetched beside one another, not one after the other. */
const asked = window.location.pathname

const StudyFrame = later(
  () => import('@/features/study/StudyFrame').then((module) => module.StudyFrame),
  'part',
  /^\/studies\/./.test(asked),
)

const FindingsPage = later(
  () => import('@/features/findings/FindingsPage').then((module) => module.FindingsPage),
  'part',
  asked.endsWith('/findings'),
)

const TodayPage = later(() => import('@/features/today/TodayPage').then((module) => module.TodayPage))

const StudiesPage = later(
  () => import('@/features/studies/StudiesPage').then((module) => module.StudiesPage),
  'part',
  /^\/(studies\/?)?$/.test(asked),
)

const RunPage = later(
  () => import('@/features/run/RunPage').then((module) => module.RunPage),
  'part',
  asked.endsWith('/run'),
)

const PeoplePage = later(() => import('@/features/people/PeoplePage').then((module) => module.PeoplePage))

const MethodsPage = later(() => import('@/features/methods/MethodsPage').then((module) => module.MethodsPage))

const GlossaryPage = later(() =>
  import('@/features/glossary/GlossaryPage').then((module) => module.GlossaryPage),
)

const queries = new QueryClient({
  defaultOptions: { queries: { retry: 1, staleTime: 30_000, refetchOnWindowFocus: false } },
})

export const App = () => (
  <ThemeProvider theme={theme} defaultMode="system">
    <GlobalStyles styles={{ ':root': variables(light), '[data-scheme="dark"]': variables(dark) }} />
    <QueryClientProvider client={queries}>
      <ShortcutProvider>
        <BrowserRouter>
          <Routes>
            <Route element={<Shell />}>
              <Route index element={<Navigate to="/studies" replace />} />
              <Route path="today" element={<TodayPage />} />
              <Route path="studies" element={<StudiesPage />} />
              <Route path="studies/:studyId" element={<StudyFrame />}>
                <Route path="run" element={<RunPage />} />
                <Route path="findings" element={<FindingsPage />} />
              </Route>
              <Route path="people" element={<PeoplePage />} />
              <Route path="methods" element={<MethodsPage />} />
              <Route path="glossary" element={<GlossaryPage />} />
              <Route path="*" element={<NotHere />} />
            </Route>
          </Routes>
        </BrowserRouter>
      </ShortcutProvider>
    </QueryClientProvider>
  </ThemeProvider>
)
