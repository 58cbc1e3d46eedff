import { later } from '@/ui/later'

/** The page that the address asks for: its parts are fetched beside one another, not one after the other. */
const asked = window.location.pathname

/** The pages of the head, in its order: each with its word there, its key, and what the list of keys says of it. */
export const PAGES = [
  {
    path: 'today',
    label: 'Today',
    key: 'T',
    says: 'Today',
    Page: later(() => import('@/features/today/TodayPage').then((module) => module.TodayPage)),
  },
  {
    path: 'studies',
    label: 'Studies',
    key: 'S',
    says: 'All studies',
    Page: later(
      () => import('@/features/studies/StudiesPage').then((module) => module.StudiesPage),
      'part',
      /^\/(studies\/?)?$/.test(asked),
    ),
  },
  {
    path: 'library',
    label: 'Library',
    key: 'B',
    says: 'Library: systems and machines',
    Page: later(() => import('@/features/library/LibraryPage').then((module) => module.LibraryPage)),
  },
  {
    path: 'standings',
    label: 'Standings',
    key: 'N',
    says: 'Standings: all that was ever measured',
    Page: later(() => import('@/features/standings/StandingsPage').then((module) => module.StandingsPage)),
  },
  {
    path: 'timing',
    label: 'Timing',
    key: 'H',
    says: 'Timing by hand, and what waits for a person',
    Page: later(() => import('@/features/timing/TimingPage').then((module) => module.TimingPage)),
  },
  {
    path: 'people',
    label: 'People',
    key: 'P',
    says: 'People, and what they did',
    Page: later(() => import('@/features/people/PeoplePage').then((module) => module.PeoplePage)),
  },
  {
    path: 'methods',
    label: 'Methods',
    key: 'M',
    says: 'How it is calculated',
    Page: later(() => import('@/features/methods/MethodsPage').then((module) => module.MethodsPage)),
  },
  {
    path: 'glossary',
    label: 'Glossary',
    key: 'G',
    says: 'Glossary: what the words mean',
    Page: later(() => import('@/features/glossary/GlossaryPage').then((module) => module.GlossaryPage)),
  },
]

/** Several measures as one index. */
export const TotalsPage = later(() =>
  import('@/features/standings/TotalsPage').then((module) => module.TotalsPage),
)

/** An edition over its releases, an install over the months. */
export const SeriesPage = later(() =>
  import('@/features/standings/SeriesPage').then((module) => module.SeriesPage),
)

/** What went wrong while systems were in use. */
export const IncidentsPage = later(() =>
  import('@/features/standings/IncidentsPage').then((module) => module.IncidentsPage),
)

/** What testers say of systems, and what works on them. */
export const ScorecardsPage = later(() =>
  import('@/features/standings/ScorecardsPage').then((module) => module.ScorecardsPage),
)
export const ScorecardPage = later(() =>
  import('@/features/standings/ScorecardPage').then((module) => module.ScorecardPage),
)

/** Which system for this machine. */
export const FitsPage = later(() => import('@/features/standings/FitsPage').then((module) => module.FitsPage))

/** Figures typed in, from nothing and into a study. */
export const TypingPage = later(() =>
  import('@/features/typing/TypingPage').then((module) => module.TypingPage),
)
export const StudyTyping = later(() =>
  import('@/features/typing/TypingPage').then((module) => module.StudyTyping),
)

/** Marks set in a recording. */
export const RecordingPage = later(() =>
  import('@/features/timing/RecordingPage').then((module) => module.RecordingPage),
)

/** A terminal's output, from nothing and into a study. */
export const PastedPage = later(() =>
  import('@/features/pasting/PastedPage').then((module) => module.PastedPage),
)
export const StudyPasted = later(() =>
  import('@/features/pasting/PastedPage').then((module) => module.StudyPasted),
)

/** One system or machine. */
export const ThingPage = later(() =>
  import('@/features/library/ThingPage').then((module) => module.ThingPage),
)

/** The pages of one study. */
export const StudyFrame = later(
  () => import('@/features/study/StudyFrame').then((module) => module.StudyFrame),
  'part',
  /^\/studies\/./.test(asked),
)
export const PlanPage = later(
  () => import('@/features/plan/PlanPage').then((module) => module.PlanPage),
  'part',
  asked.endsWith('/plan'),
)
export const RunPage = later(
  () => import('@/features/run/RunPage').then((module) => module.RunPage),
  'part',
  asked.endsWith('/run'),
)
export const FindingsPage = later(
  () => import('@/features/findings/FindingsPage').then((module) => module.FindingsPage),
  'part',
  asked.endsWith('/findings'),
)
export const ReportPage = later(() =>
  import('@/features/report/ReportPage').then((module) => module.ReportPage),
)

/** Studies handed on to another bench book, and taken in from one. */
export const PackagesPage = later(() =>
  import('@/features/packages/PackagesPage').then((module) => module.PackagesPage),
)
