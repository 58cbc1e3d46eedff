import Button from '@mui/material/Button'
import Table from '@mui/material/Table'
import TableBody from '@mui/material/TableBody'
import TableCell from '@mui/material/TableCell'
import TableContainer from '@mui/material/TableContainer'
import TableHead from '@mui/material/TableHead'
import TableRow from '@mui/material/TableRow'
import { useQuery } from '@tanstack/react-query'
import { useEffect, useState } from 'react'
import { Link, useParams } from 'react-router'

import { moment } from '@/format/numbers'
import { KeyHint } from '@/ui/KeyHint'
import { Actions, Inset, LinkButton, Main, PanelTop, Sheet, Soft, SoftSmall, TitleBar } from '@/ui/kit'
import { later } from '@/ui/later'
import { LineDialog } from '@/ui/LineDialog'
import { useShortcuts } from '@/ui/shortcuts'
import { Failed, Loading } from '@/ui/States'
import { Tag } from '@/ui/Tag'
import { UndoBar } from '@/ui/UndoBar'

import { Claims } from './Claims'
import { ImagePanel } from './ImagePanel'
import { Installs } from './Installs'
import { MachineKeys } from './MachineKeys'
import { OverTime } from './OverTime'
import { thingQuery, useChangeThing, type FactLine, type LibraryPage, type Noun } from '@/api/things'

const FactDialog = later(() => import('./FactDialog').then((module) => module.FactDialog), 'dialog')

const AboutDialog = later(() => import('./AboutDialog').then((module) => module.AboutDialog), 'dialog')

const IDENTITY: Record<string, string> = {
  distribution: 'Distribution',
  release: 'Release',
  edition: 'Edition',
  architecture: 'Architecture',
}

type Undo = { says: string; back: Parameters<ReturnType<typeof useChangeThing>['mutate']>[0] }

/** Everything that is known of one system or machine. */
export function ThingPage() {
  const { noun: asked, key = '' } = useParams()
  const noun: Noun = asked === 'machines' ? 'machines' : 'systems'
  const page = useQuery(thingQuery(noun, key))
  const name = page.data?.thing.name
  useEffect(() => {
    document.title = name ? `${name} · Hare Mile` : 'Library · Hare Mile'
  }, [name])
  return (
    <Main>
      <SoftSmall as="p" sx={{ m: 0 }}>
        <Link to="/library">Library</Link> / {noun}
      </SoftSmall>
      {page.isPending && <Loading what="what is known" />}
      {page.error && <Failed error={page.error} onRetry={() => void page.refetch()} />}
      {page.data && <Known noun={noun} page={page.data} />}
    </Main>
  )
}

function Known({ noun, page }: { noun: Noun; page: LibraryPage }) {
  const { thing } = page
  const change = useChangeThing(noun, thing.id)
  const [isRenaming, setRenaming] = useState(false)
  const [undo, setUndo] = useState<Undo | null>(null)
  const one = noun === 'systems' ? 'system' : 'machine'
  useShortcuts([{ key: 'F2', says: `Rename the ${one}`, run: () => setRenaming(true) }])
  const rename = (name: string) =>
    change.mutate(
      { name },
      {
        onSuccess: () => {
          setUndo({ says: `The ${one} is renamed.`, back: { name: thing.name } })
          setRenaming(false)
        },
      },
    )
  const putAway = () =>
    change.mutate(
      { is_put_away: true },
      { onSuccess: () => setUndo({ says: `The ${one} is put away.`, back: { is_put_away: false } }) },
    )
  return (
    <>
      <TitleBar>
        <div>
          <h1>{thing.name}</h1>
          <Soft as="div">
            {thing.aliases.length ? `called ${thing.aliases.join(', ')} before` : one}
            {thing.is_put_away ? '; put away' : ''}
          </Soft>
        </div>
        <Actions>
          <Button variant="outlined" color="inherit" onClick={() => setRenaming(true)}>
            Rename
            <KeyHint name="F2" />
          </Button>
          <Button
            variant="outlined"
            color="inherit"
            onClick={thing.is_put_away ? () => change.mutate({ is_put_away: false }) : putAway}
          >
            {thing.is_put_away ? 'Bring back' : 'Put away'}
          </Button>
        </Actions>
      </TitleBar>
      <Facts noun={noun} page={page} />
      {noun === 'systems' && <ImagePanel system={thing.id} />}
      {noun === 'systems' && <Claims system={thing.id} name={thing.name} claims={page.claims} />}
      <Installs noun={noun} thing={thing.id} />
      {noun === 'machines' && thing.identity.kind === 'physical' && <MachineKeys machine={thing.name} />}
      <OverTime noun={noun} thing={thing.id} />
      <Studies page={page} />
      {isRenaming && (
        <LineDialog
          title={`Rename the ${one}`}
          label="Name"
          initial={thing.name}
          action="Rename"
          error={change.error}
          isPending={change.isPending}
          onClose={() => setRenaming(false)}
          onSay={rename}
        >
          It is called so everywhere then. Files that bear the old name are still understood.
        </LineDialog>
      )}
      {undo && (
        <UndoBar
          says={undo.says}
          onUndo={() => change.mutate(undo.back, { onSuccess: () => setUndo(null) })}
          onDone={() => setUndo(null)}
        />
      )}
    </>
  )
}

function Facts({ noun, page }: { noun: Noun; page: LibraryPage }) {
  const [open, setOpen] = useState<FactLine | null>(null)
  const [identity, setIdentity] = useState<string | null>(null)
  const [isFilling, setFilling] = useState(false)
  const [filled, setFilled] = useState('')
  useShortcuts([{ key: 'l', says: 'Fill from a capture of the probe', run: () => setFilling(true) }])
  const change = useChangeThing(noun, page.thing.id)
  const state = (value: string) =>
    change.mutate({ [identity!]: value }, { onSuccess: () => setIdentity(null) })
  return (
    <Sheet as="section" sx={{ mt: 1.75 }}>
      <PanelTop>
        <h2>What is known</h2>
        <Soft>stated, with its source; beside it what its own runs found</Soft>
        <Button
          size="small"
          variant="outlined"
          color="inherit"
          className="spread"
          onClick={() => setFilling(true)}
        >
          Fill from a capture
          <KeyHint name="L" />
        </Button>
      </PanelTop>
      <TableContainer>
        <Table size="small">
          <TableHead>
            <TableRow>
              <TableCell />
              <TableCell>Stated</TableCell>
              <TableCell>As found</TableCell>
              <TableCell />
            </TableRow>
          </TableHead>
          <TableBody>
            {Object.entries(IDENTITY)
              .filter(() => noun === 'systems')
              .map(([key, label]) => (
                <TableRow key={key}>
                  <TableCell>{label}</TableCell>
                  <TableCell>{page.thing.identity[key]}</TableCell>
                  <TableCell />
                  <TableCell align="right">
                    <LinkButton aria-label={`State ${label}`} onClick={() => setIdentity(key)}>
                      State
                    </LinkButton>
                  </TableCell>
                </TableRow>
              ))}
            {page.lines.map((line) => (
              <TableRow key={line.key}>
                <TableCell>{line.label}</TableCell>
                <TableCell>
                  <Stated line={line} />
                </TableCell>
                <TableCell>
                  {line.found}{' '}
                  {line.differs && (
                    <Tag kind="weakens" word="differs" says="What is stated is not what its runs found." />
                  )}
                </TableCell>
                <TableCell align="right">
                  <LinkButton aria-label={`State ${line.label}`} onClick={() => setOpen(line)}>
                    State
                  </LinkButton>
                </TableCell>
              </TableRow>
            ))}
          </TableBody>
        </Table>
      </TableContainer>
      {filled && <Inset role="status">{filled}</Inset>}
      {isFilling && (
        <AboutDialog
          noun={noun}
          thing={page.thing.id}
          onClose={() => setFilling(false)}
          onDone={(says) => {
            setFilled(says)
            setFilling(false)
          }}
        />
      )}
      {open && <FactDialog noun={noun} thing={page.thing.id} line={open} onClose={() => setOpen(null)} />}
      {identity && (
        <LineDialog
          title={IDENTITY[identity]!}
          label={IDENTITY[identity]!}
          initial={page.thing.identity[identity] ?? ''}
          action="State it"
          error={change.error}
          isPending={change.isPending}
          onClose={() => setIdentity(null)}
          onSay={state}
        />
      )}
    </Sheet>
  )
}

function Stated({ line }: { line: FactLine }) {
  const { stated } = line
  return (
    <>
      {stated?.value}
      {stated && (
        <SoftSmall as="div">{[stated.source.text, stated.source.on].filter(Boolean).join(', ')}</SoftSmall>
      )}
      {line.before.length > 0 && (
        <details>
          <summary>
            <SoftSmall>before</SoftSmall>
          </summary>
          {line.before.map((fact) => (
            <SoftSmall as="div" key={fact.at}>
              {fact.value ?? 'taken out'} ({[moment(fact.at), fact.who].filter(Boolean).join(', ')})
            </SoftSmall>
          ))}
        </details>
      )}
    </>
  )
}

const Studies = ({ page }: { page: LibraryPage }) => (
  <Sheet as="section" sx={{ mt: 1.75 }}>
    <PanelTop>
      <h2>Studies</h2>
      <Soft>in which it takes part</Soft>
    </PanelTop>
    {page.studies.length === 0 && <Inset>In none yet.</Inset>}
    <ul>
      {page.studies.map((study) => (
        <li key={study.id}>
          <Link to={`/studies/${study.id}/findings`}>{study.title}</Link>
        </li>
      ))}
    </ul>
  </Sheet>
)
