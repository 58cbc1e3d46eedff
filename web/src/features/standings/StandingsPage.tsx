import { useQuery } from '@tanstack/react-query'
import { useState } from 'react'

import { standingsQuery, type StandingsPage as Page } from '@/api/standings'
import { count } from '@/format/numbers'
import { Chooser } from '@/ui/Chooser'
import { Main, Soft, TitleBar } from '@/ui/kit'
import { useShortcuts } from '@/ui/shortcuts'
import { Empty, Failed, Loading } from '@/ui/States'
import { nextOf, presentSearch, useView } from '@/ui/useView'

import { askedOf, questionKey, questionSaid } from './asked'
import { BandsDialog } from './BandsDialog'
import { Filters } from './Filters'
import { StandingsSheet } from './StandingsSheet'
import { Views } from './Views'

/** Everything that was ever measured of one question, on one list. */
export function StandingsPage() {
  const view = useView()
  const found = useQuery(standingsQuery(askedOf(view, presentSearch())))
  if (found.error)
    return (
      <Main>
        <h1>Standings</h1>
        <Failed error={found.error} onRetry={() => void found.refetch()} />
      </Main>
    )
  if (!found.data)
    return (
      <Main>
        <h1>Standings</h1>
        <Loading what="everything that was ever measured" />
      </Main>
    )
  return <Shown page={found.data} isOld={found.isPlaceholderData} />
}

function Shown({ page, isOld }: { page: Page; isOld: boolean }) {
  const view = useView()
  const [isSetting, setSetting] = useState(false)
  const choose = (key: string) => {
    const one = page.questions.find((each) => questionKey(each) === key)!
    view.go({ metric: one.metric, method: one.method, start: one.start, facet: one.facet, open: '' })
  }
  const now = page.questions.find((one) => page.question && questionKey(one) === questionKey(page.question))
  useShortcuts(
    now
      ? [
          { key: 'm', says: 'Next measure', run: () => choose(questionKey(nextOf(page.questions, now))) },
          { key: 'b', says: 'Set bands: where light ends and heavy begins', run: () => setSetting(true) },
        ]
      : [],
  )
  if (!page.question || !now)
    return (
      <Main>
        <h1>Standings</h1>
        <Empty title={page.headline}>
          <p>{page.beside}</p>
        </Empty>
      </Main>
    )
  return (
    <Main aria-busy={isOld}>
      <TitleBar>
        <div>
          <h1>{questionSaid(now, page.questions)}, all that was ever measured</h1>
          <Soft as="div">
            {count(page.lines.length, 'system')} · {count(page.studies, 'study', 'studies')} ·{' '}
            {count(page.readings, 'reading')}
            {page.machine && ` · figures as on the ${page.machine}`}
          </Soft>
          <Views />
        </div>
      </TitleBar>
      <Filters page={page}>
        <Chooser
          label="measure"
          keyName="M"
          chosen={questionKey(now)}
          onChoose={choose}
          options={page.questions.map((one) => ({
            id: questionKey(one),
            label: questionSaid(one, page.questions),
          }))}
        />
      </Filters>
      <StandingsSheet
        page={page}
        title={questionSaid(now, page.questions)}
        onBands={() => setSetting(true)}
      />
      <Soft as="p">
        A list holds what was measured side by side, directly or through systems that several studies share.
      </Soft>
      {isSetting && <BandsDialog page={page} onClose={() => setSetting(false)} />}
    </Main>
  )
}
