import { useQuery } from '@tanstack/react-query'

import { embeddedFonts } from '@/api/fonts'
import { seriesQuery, type SeriesPage as Page } from '@/api/standings'
import { seriesTable } from '@/charts/layout/series'
import { SeriesPicture } from '@/charts/SeriesPicture'
import { csvOf } from '@/format/table'
import { Chooser } from '@/ui/Chooser'
import { DataTable } from '@/ui/DataTable'
import { KeepButtons } from '@/ui/KeepButtons'
import { Answer, Foot, Headline, Main, Sheet, Soft, TitleBar } from '@/ui/kit'
import { MethodLink } from '@/ui/MethodLink'
import { useShortcuts } from '@/ui/shortcuts'
import { Empty, Failed, Loading } from '@/ui/States'
import { nextOf, useView } from '@/ui/useView'
import { useWidth } from '@/ui/useWidth'

import { questionKey, questionSaid } from './asked'
import { Views } from './Views'

/** An edition over its releases, or an install over the months. */
export function SeriesPage() {
  const view = useView()
  const isAsked = view.get('metric') !== ''
  const found = useQuery(
    seriesQuery({
      ...(isAsked && {
        metric: view.get('metric'),
        method: view.get('method'),
        start: view.get('start'),
        facet: view.get('facet'),
      }),
      ...(view.get('series') && { series: view.get('series') }),
    }),
  )
  return (
    <Main aria-busy={found.isPlaceholderData}>
      <TitleBar>
        <div>
          <h1>Series</h1>
          <Soft as="div">an edition over its releases, or an install over the months</Soft>
          <Views />
        </div>
      </TitleBar>
      {found.isPending && <Loading what="the series" />}
      {found.error && <Failed error={found.error} onRetry={() => void found.refetch()} />}
      {found.data && <Shown page={found.data} />}
    </Main>
  )
}

function Shown({ page }: { page: Page }) {
  const view = useView()
  const [ref, width] = useWidth<HTMLDivElement>(1180)
  const now = page.questions.find((one) => page.question && questionKey(one) === questionKey(page.question))
  const choose = (key: string) => {
    const one = page.questions.find((each) => questionKey(each) === key)!
    view.go({ metric: one.metric, method: one.method, start: one.start, facet: one.facet, series: '' })
  }
  const follow = (series: string) => view.put({ series })
  useShortcuts(
    now && page.chosen
      ? [
          { key: 'm', says: 'Next measure', run: () => choose(questionKey(nextOf(page.questions, now))) },
          { key: 'n', says: 'Next series', run: () => follow(nextOf(page.keys, page.chosen!).key) },
        ]
      : [],
  )
  if (!now || !page.chosen)
    return (
      <Empty title={page.headline}>
        <p>{page.sentence}</p>
      </Empty>
    )
  const table = seriesTable(page)
  return (
    <>
      <Soft
        as="div"
        className="noprint"
        sx={{ display: 'flex', flexWrap: 'wrap', gap: '6px 18px', my: 1.25 }}
      >
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
        <Chooser
          label="series"
          keyName="N"
          chosen={page.chosen.key}
          onChoose={follow}
          options={page.keys.map((one) => ({ id: one.key, label: one.label }))}
        />
      </Soft>
      <Sheet as="section" ref={ref} aria-label={`Series: ${page.chosen.label}`}>
        <Headline className="headline" sx={{ pt: 1.25 }}>
          {page.headline}
        </Headline>
        <Answer data-testid="answer">
          {page.sentence} <MethodLink to="over-studies" />
        </Answer>
        <SeriesPicture page={page} width={width} />
        <DataTable table={table} />
        <Foot className="noprint">
          <KeepButtons
            box={ref}
            fonts={embeddedFonts}
            hasPicture
            name={['series', page.chosen.label]}
            data={() => csvOf(table)}
            head={[
              page.headline,
              page.sentence,
              `${questionSaid(now, page.questions)}; ${page.chosen.label}`,
            ]}
          />
        </Foot>
      </Sheet>
    </>
  )
}
