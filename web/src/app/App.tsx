import GlobalStyles from '@mui/material/GlobalStyles'
import { ThemeProvider } from '@mui/material/styles'
import { QueryClientProvider } from '@tanstack/react-query'
import { BrowserRouter, Navigate, Route, Routes } from 'react-router'

import { theme } from '@/theme/theme'
import { dark, light, variables } from '@/theme/tokens'
import { ShortcutProvider } from '@/ui/ShortcutProvider'

import { NotHere } from './NotHere'
import {
  FindingsPage,
  FitsPage,
  ScorecardPage,
  ScorecardsPage,
  IncidentsPage,
  PackagesPage,
  PAGES,
  PastedPage,
  PlanPage,
  RecordingPage,
  ReportPage,
  RunPage,
  StudyFrame,
  StudyPasted,
  StudyTyping,
  ThingPage,
  SeriesPage,
  TotalsPage,
  TypingPage,
} from './pages'
import { queries } from './queryClient'
import { Shell } from './Shell'

export const App = () => (
  <ThemeProvider theme={theme} defaultMode="system">
    <GlobalStyles
      styles={{ ':root, [data-scheme="light"]': variables(light), '[data-scheme="dark"]': variables(dark) }}
    />
    <QueryClientProvider client={queries}>
      <ShortcutProvider>
        <BrowserRouter>
          <Routes>
            <Route element={<Shell />}>
              <Route index element={<Navigate to="/studies" replace />} />
              {PAGES.map(({ path, Page }) => (
                <Route key={path} path={path} element={<Page />} />
              ))}
              <Route path="library/:noun/:key" element={<ThingPage />} />
              <Route path="standings/totals" element={<TotalsPage />} />
              <Route path="standings/series" element={<SeriesPage />} />
              <Route path="standings/incidents" element={<IncidentsPage />} />
              <Route path="standings/scorecards" element={<ScorecardsPage />} />
              <Route path="standings/scorecards/:systemId" element={<ScorecardPage />} />
              <Route path="standings/fits" element={<FitsPage />} />
              <Route path="packages" element={<PackagesPage />} />
              <Route path="typing" element={<TypingPage />} />
              <Route path="pasted" element={<PastedPage />} />
              <Route path="recording" element={<RecordingPage />} />
              <Route path="studies/:studyId" element={<StudyFrame />}>
                <Route path="typing" element={<StudyTyping />} />
                <Route path="pasted" element={<StudyPasted />} />
                <Route path="plan" element={<PlanPage />} />
                <Route path="run" element={<RunPage />} />
                <Route path="findings" element={<FindingsPage />} />
                <Route path="report" element={<ReportPage />} />
              </Route>
              <Route path="*" element={<NotHere />} />
            </Route>
          </Routes>
        </BrowserRouter>
      </ShortcutProvider>
    </QueryClientProvider>
  </ThemeProvider>
)
