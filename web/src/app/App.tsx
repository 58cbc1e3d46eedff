import GlobalStyles from '@mui/material/GlobalStyles'
import { ThemeProvider } from '@mui/material/styles'
import { QueryClient, QueryClientProvider } from '@tanstack/react-query'
import { BrowserRouter, Navigate, Route, Routes } from 'react-router'

import { FindingsPost } from '@/features/findings/FindingsPost'
import { MethodsPage } from '@/features/methods/MethodsPage'
import { RunPost } from '@/features/run/RunPost'
import { StudiesPage } from '@/features/studies/StudiesPage'
import { StudyFrame } from '@/features/study/StudyFrame'
import { TodayPage } from '@/features/today/TodayPage'
import { theme } from '@/theme/theme'
import { dark, light, variables } from '@/theme/tokens'
import { ShortcutProvider } from '@/ui/ShortcutProvider'

import { NotHere } from './NotHere'
import { Shell } from './Shell'

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
                <Route path="run" element={<RunPost />} />
                <Route path="findings" element={<FindingsPost />} />
              </Route>
              <Route path="methods" element={<MethodsPage />} />
              <Route path="*" element={<NotHere />} />
            </Route>
          </Routes>
        </BrowserRouter>
      </ShortcutProvider>
    </QueryClientProvider>
  </ThemeProvider>
)
