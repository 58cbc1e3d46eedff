import { useQuery } from '@tanstack/react-query'
import { useState } from 'react'

import { embeddedFonts } from '@/api/fonts'
import { studiesQuery } from '@/api/queries'
import { totalsQuery, useKeepSet, usePutSetAway, type TotalsPage as Page } from '@/api/standings'
import { totalsTable } from '@/charts/layout/totals'
import { TotalsPicture } from '@/charts/TotalsPicture'
import { csvOf } from '@/format/table'
import { Chooser } from '@/ui/Chooser'
import { DataTable } from '@/ui/DataTable'
import { KeepButtons } from '@/ui/KeepButtons'
import { KeyHint } from '@/ui/KeyHint'
import { Answer, Foot, Headline, Inset, LinkButton, Main, Plain, Sheet, Soft, TitleBar } from '@/ui/kit'
import { LineDialog } from '@/ui/LineDialog'
import { MethodLink } from '@/ui/MethodLink'
import { useShortcuts } from '@/ui/shortcuts'
import { Empty, Failed, Loading } from '@/ui/States'
import { UndoBar } from '@/ui/UndoBar'
import { presentSearch, useView } from '@/ui/useView'
import { useWidth } from '@/ui/useWidth'

import { askedTotals, typedEnds, weightName } from './askedTotals'
import { KeepSetDialog } from './KeepSetDialog'
import { Views } from './Views'
import { Weights } from './Weights'

/** Several measures as one index, 100 at the reference. */
export function TotalsPage() {
  const view = useView()
  const found = useQuery(totalsQuery(askedTotals(view, presentSearch())))
  return (
    <Main aria-busy={found.isPlaceholderData}>
      <TitleBar>
        <div>
          <h1>Totals</h1>
          <Soft as="div">several measures as one index: 100 is the reference, more is better</Soft>
          <Views />
        </div>
      </TitleBar>
      {found.isPending && <Loading what="the index" />}
      {found.error && <Failed error={found.error} onRetry={() => void found.refetch()} />}
      {found.data &&
        (found.data.measures.length ? (
          <Shown page={found.data} />
        ) : (
          <Empty title={found.data.headline}>
            <p>{found.data.sentence}</p>
          </Empty>
        ))}
    </Main>
  )
}

type Dialog = 'keep' | 'ends' | null

function Shown({ page }: { page: Page }) {
  const view = useView()
  const [ref, width] = useWidth<HTMLDivElement>(1180)
  const [dialog, setDialog] = useState<Dialog>(null)
  const isTable = view.get('as') === 'table'
  const turn = () => view.put({ as: isTable ? '' : 'table' })
  useShortcuts([
    { key: 'a', says: isTable ? 'As a picture' : 'As a table', run: turn },
    { key: 'w', says: 'Keep these weights under a name', run: () => setDialog('keep') },
    { key: 'e', says: 'Scale to 0 to 100 by stated ends', run: () => setDialog('ends') },
  ])
  const over = view.get('study') ? 'one study' : 'everything that was ever measured'
  return (
    <>
      <Choosers page={page} />
      <Sheet as="section" ref={ref} aria-label="Index">
        <Headline className="headline" sx={{ pt: 1.25 }}>
          {page.headline}
        </Headline>
        <Answer data-testid="answer">{page.sentence}</Answer>
        {page.lines.length > 0 &&
          (isTable ? <DataTable table={totalsTable(page)} /> : <TotalsPicture page={page} width={width} />)}
        {page.reference && (
          <Inset>
            <Soft>
              {page.reference} is 100
              {page.is_stored
                ? ', by the figures that were stored with these weights'
                : ', by its figures now'}
              . <MethodLink to="totals" />
            </Soft>
          </Inset>
        )}
        <Weights page={page} />
        {page.lines.length > 0 && !isTable && <DataTable table={totalsTable(page)} />}
        <Foot className="noprint">
          <Plain onClick={turn} aria-pressed={isTable}>
            {isTable ? 'As a picture' : 'As a table'}
            <KeyHint name="A" />
          </Plain>
          <Plain onClick={() => setDialog('keep')}>
            Keep these weights
            <KeyHint name="W" />
          </Plain>
          <Plain onClick={() => setDialog('ends')}>
            {page.ends ? `0 to 100: ${page.ends.nothing} to ${page.ends.all}` : 'Scale to 0 to 100'}
            <KeyHint name="E" />
          </Plain>
          {page.lines.length > 0 && (
            <KeepButtons
              box={ref}
              fonts={embeddedFonts}
              hasPicture={!isTable}
              name={['index', over]}
              data={() => csvOf(totalsTable(page))}
              head={[page.headline, page.sentence, `index, ${page.reference} = 100; over ${over}`]}
            />
          )}
        </Foot>
      </Sheet>
      {dialog === 'keep' && <KeepSet page={page} onClose={() => setDialog(null)} />}
      {dialog === 'ends' && <EndsDialog page={page} onClose={() => setDialog(null)} />}
    </>
  )
}

/** Over what, by which weights, against whom. */
function Choosers({ page }: { page: Page }) {
  const view = useView()
  const studies = useQuery(studiesQuery())
  const away = usePutSetAway()
  const [gone, setGone] = useState<{ id: string; name: string } | null>(null)
  const choose = (id: string) => view.go({ set: id, ref: '', ...noWeights() })
  const chosen = page.sets.find((one) => one.id === view.get('set'))
  const putAway = (one: { id: string; name: string }) =>
    away.mutate(
      { id: one.id, isAway: true },
      {
        onSuccess: () => {
          setGone(one)
          choose('')
        },
      },
    )
  return (
    <Soft as="div" className="noprint" sx={{ display: 'flex', flexWrap: 'wrap', gap: '6px 18px', my: 1.25 }}>
      <Chooser
        label="over"
        chosen={view.get('study')}
        onChoose={(study) => view.go({ study, machine: '', ref: '' })}
        options={[
          { id: '', label: 'everything ever measured' },
          ...(studies.data ?? []).map((study) => ({ id: study.id, label: study.title })),
        ]}
      />
      {(page.machines.length > 1 || view.get('machine')) && (
        <Chooser
          label="on"
          chosen={view.get('machine')}
          onChoose={(machine) => view.put({ machine })}
          options={[
            { id: '', label: view.get('study') ? 'the one with most readings' : 'every machine' },
            ...page.machines.map((id) => ({ id, label: id })),
          ]}
        />
      )}
      <Chooser
        label="weights"
        chosen={chosen ? view.get('set') : ''}
        onChoose={choose}
        options={[
          { id: '', label: 'of your own' },
          ...page.sets.map((one) => ({
            id: one.id!,
            label: one.use ? `${one.name} (${one.use})` : one.name,
          })),
        ]}
      />
      {chosen && (
        <LinkButton onClick={() => putAway({ id: chosen.id!, name: chosen.name })}>
          Put this set away
        </LinkButton>
      )}
      <Chooser
        label="100 is"
        chosen={page.reference ?? ''}
        onChoose={(name) => view.put({ ref: name })}
        options={[...new Set([...(page.reference ? [page.reference] : []), ...page.references])].map(
          (id) => ({
            id,
            label: id,
          }),
        )}
      />
      {gone && (
        <UndoBar
          says={`Put away: ${gone.name}`}
          onDone={() => setGone(null)}
          onUndo={() => {
            away.mutate({ id: gone.id, isAway: false })
            choose(gone.id)
            setGone(null)
          }}
        />
      )}
    </Soft>
  )
}

/** The weights out of the address. */
const noWeights = () =>
  Object.fromEntries(
    [...presentSearch().keys()].filter((name) => name.startsWith(weightName(''))).map((name) => [name, '']),
  )

function KeepSet({ page, onClose }: { page: Page; onClose: () => void }) {
  const view = useView()
  const keep = useKeepSet()
  const say = (name: string, use: string) =>
    keep.mutate(
      {
        name,
        use: use || null,
        weights: page.weights,
        reference: page.reference,
        study: view.get('study') || null,
        machine: view.get('machine') || null,
        ends: page.ends ? [page.ends.nothing, page.ends.all] : null,
      },
      {
        onSuccess: ({ id }) => {
          view.go({ set: id, ref: '', ...noWeights() })
          onClose()
        },
      },
    )
  return <KeepSetDialog error={keep.error} isPending={keep.isPending} onClose={onClose} onSay={say} />
}

function EndsDialog({ page, onClose }: { page: Page; onClose: () => void }) {
  const view = useView()
  const [fault, setFault] = useState<Error | null>(null)
  const say = (text: string) => {
    const ends = typedEnds(text)
    if (text && !ends) return setFault(new Error('Write two indexes, such as: 50 to 150'))
    view.put({ zero: ends?.zero ?? '', hundred: ends?.hundred ?? '' })
    onClose()
  }
  return (
    <LineDialog
      title="Scale to 0 to 100"
      label="The index at 0 and at 100"
      action="Scale"
      initial={page.ends ? `${page.ends.nothing} to ${page.ends.all}` : ''}
      mayBeEmpty
      error={fault}
      isPending={false}
      onClose={onClose}
      onSay={say}
    >
      Such as 50 to 150: half the reference is 0, half as much again is 100. Empty shows the index itself.
    </LineDialog>
  )
}
