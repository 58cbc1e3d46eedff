import Button from '@mui/material/Button'
import { styled } from '@mui/material/styles'
import Table from '@mui/material/Table'
import TableBody from '@mui/material/TableBody'
import TableCell from '@mui/material/TableCell'
import TableContainer from '@mui/material/TableContainer'
import TableHead from '@mui/material/TableHead'
import TableRow from '@mui/material/TableRow'
import { useQuery } from '@tanstack/react-query'
import { useState, type FormEvent } from 'react'
import { Link, useNavigate } from 'react-router'

import { usePlanOf } from '@/api/plan'
import { fitsQuery, type FitLine, type FitsPage as Page } from '@/api/standings'
import { Chooser } from '@/ui/Chooser'
import { Answer, Headline, LinkButton, Main, Sheet, Soft, TitleBar } from '@/ui/kit'
import { Failed, Loading } from '@/ui/States'
import { TableCaption } from '@/ui/TableCaption'
import { Tag } from '@/ui/Tag'
import { TextLine } from '@/ui/TextLine'
import { useView } from '@/ui/useView'

import { Views } from './Views'

const KINDS: Record<string, string> = { fits: 'ahead', maybe: 'undecided', 'does not fit': 'behind' }
const ASKED = ['machine', 'memory', 'space', 'cores', 'architecture'] as const

/** What has to work, out of one line. */
const needsOf = (text: string) =>
  text
    .split(';')
    .map((one) => one.trim())
    .filter((one) => one !== '')

const Fields = styled('form')({ display: 'flex', flexWrap: 'wrap', gap: '10px 14px', alignItems: 'center' })

/** Which system for this machine: those that fit, in the order of a total. */
export function FitsPage() {
  const view = useView()
  const asked = Object.fromEntries(
    ASKED.filter((name) => view.get(name)).map((name) => [name, view.get(name)]),
  )
  const set = view.get('set')
  const need = needsOf(view.get('need'))
  const offered = useQuery(fitsQuery({}))
  const found = useQuery(
    fitsQuery({ ...asked, ...(set && { set_id: set }), ...(need.length > 0 && { need }) }),
  )
  return (
    <Main aria-busy={found.isPlaceholderData}>
      <TitleBar>
        <div>
          <h1>Which system for this machine?</h1>
          <Soft as="div">those that fit, in the order of the index that you choose</Soft>
          <Views />
        </div>
      </TitleBar>
      {found.isPending && <Loading what="what is known of the systems" />}
      {offered.data && <Question key={view.get('machine')} page={offered.data} />}
      {found.error && <Failed error={found.error} onRetry={() => void found.refetch()} />}
      {found.data && !found.error && <Shown page={found.data} />}
    </Main>
  )
}

function Question({ page }: { page: Page }) {
  const view = useView()
  const [memory, setMemory] = useState(view.get('memory'))
  const [space, setSpace] = useState(view.get('space'))
  const [cores, setCores] = useState(view.get('cores'))
  const [need, setNeed] = useState(view.get('need'))
  const submit = (event: FormEvent) => {
    event.preventDefault()
    view.go({ memory: memory.trim(), space: space.trim(), cores: cores.trim(), need: need.trim() })
  }
  return (
    <Soft as="div" sx={{ my: 1.5 }}>
      <Fields onSubmit={submit}>
        <Chooser
          label="machine"
          chosen={view.get('machine')}
          onChoose={(machine) => view.go({ machine, memory: '', cores: '' })}
          options={[
            { id: '', label: 'as typed' },
            ...page.machines.map((one) => ({ id: one.id, label: one.name })),
          ]}
        />
        <TextLine
          label="Memory, such as 2 GiB"
          value={memory}
          onChange={setMemory}
          most={40}
          sx={{ width: 210 }}
        />
        <TextLine
          label="Space, such as 16 GB"
          value={space}
          onChange={setSpace}
          most={40}
          sx={{ width: 210 }}
        />
        <TextLine label="Cores" value={cores} onChange={setCores} most={4} sx={{ width: 90 }} />
        <TextLine
          label="Has to work, such as wireless; printing"
          value={need}
          onChange={setNeed}
          list="fit-subjects"
          most={400}
          sx={{ width: 320 }}
        />
        <datalist id="fit-subjects">
          {page.subjects.map((one) => (
            <option key={one} value={one} />
          ))}
        </datalist>
        {page.architectures.length > 0 && (
          <Chooser
            label="architecture"
            chosen={view.get('architecture')}
            onChoose={(architecture) => view.go({ architecture })}
            options={[
              { id: '', label: 'any' },
              ...page.architectures.map((name) => ({ id: name, label: name })),
            ]}
          />
        )}
        <Chooser
          label="for"
          chosen={view.get('set')}
          onChoose={(set) => view.put({ set })}
          options={[
            { id: '', label: 'the usual weights' },
            ...page.sets.map((one) => ({
              id: one.id!,
              label: one.use ? `${one.name} (${one.use})` : one.name,
            })),
          ]}
        />
        <Button type="submit" variant="contained">
          Look
        </Button>
      </Fields>
    </Soft>
  )
}

function Shown({ page }: { page: Page }) {
  return (
    <Sheet as="section" aria-label="Systems for this machine">
      <Headline className="headline" sx={{ pt: 1.25 }}>
        {page.headline}
      </Headline>
      <Answer data-testid="answer">{page.sentence}</Answer>
      {page.lines.length > 0 && (
        <TableContainer>
          <Table size="small">
            <TableCaption>Systems for this machine</TableCaption>
            <TableHead>
              <TableRow>
                <TableCell>system</TableCell>
                <TableCell>fits</TableCell>
                <TableCell>because</TableCell>
                <TableCell align="right">
                  {page.reference ? `index, ${page.reference} = 100` : 'index'}
                </TableCell>
                <TableCell>what would settle it</TableCell>
              </TableRow>
            </TableHead>
            <TableBody>
              {page.lines.map((line) => (
                <Line key={line.system_id} line={line} />
              ))}
            </TableBody>
          </Table>
        </TableContainer>
      )}
    </Sheet>
  )
}

function Line({ line }: { line: FitLine }) {
  const view = useView()
  const plan = usePlanOf()
  const navigate = useNavigate()
  const start = () =>
    plan.mutate(
      {
        title: `Does ${line.system} fit?`,
        systems: [line.system_id],
        machines: view.get('machine') && line.procedure !== 'least-memory' ? [view.get('machine')] : [],
        procedures: [line.procedure!],
      },
      { onSuccess: (id) => void navigate(`/studies/${id}/plan`) },
    )
  return (
    <TableRow>
      <TableCell>
        <Link to={`/library/systems/${line.system_id}`}>{line.system}</Link>
      </TableCell>
      <TableCell>
        <Tag kind={KINDS[line.fit] ?? 'undecided'} word={line.fit} />
      </TableCell>
      <TableCell>{line.reasons.map((one) => one.says).join('; ')}</TableCell>
      <TableCell align="right">{line.index === null ? 'none' : line.index.toFixed(0)}</TableCell>
      <TableCell>
        {line.settles && (
          <>
            {line.settles}{' '}
            <LinkButton onClick={start} disabled={plan.isPending} aria-label={`Plan that for ${line.system}`}>
              Plan that
            </LinkButton>
          </>
        )}
        {line.tries && (
          <>
            {line.settles && '; '}
            {line.tries}{' '}
            <Link to={`/standings/scorecards/${line.system_id}`} aria-label={`Try that on ${line.system}`}>
              Try that
            </Link>
          </>
        )}
        {plan.error && <span role="alert">{plan.error.message}</span>}
      </TableCell>
    </TableRow>
  )
}
