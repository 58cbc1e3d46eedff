import Button from '@mui/material/Button'
import { styled } from '@mui/material/styles'
import TextField from '@mui/material/TextField'
import { useQuery } from '@tanstack/react-query'
import { useEffect, useRef, useState } from 'react'
import { Link, useNavigate } from 'react-router'

import { count } from '@/format/numbers'
import { HEADING } from '@/theme/theme'
import { KeyHint } from '@/ui/KeyHint'
import { Actions, LinkButton, Main, Sheet, Soft, SoftSmall, TitleBar } from '@/ui/kit'
import { later } from '@/ui/later'
import { LineDialog } from '@/ui/LineDialog'
import { useShortcuts } from '@/ui/shortcuts'
import { Failed, Loading } from '@/ui/States'
import { useLinkKeys } from '@/ui/useLinkKeys'

import { matching } from './found'
import { OwnMeasures } from './OwnMeasures'
import { thingsQuery, useAddThing, type Noun, type Thing } from '@/api/things'

const LadderDialog = later(() => import('./LadderDialog').then((module) => module.LadderDialog), 'dialog')

const Things = styled(Sheet)({
  '& h2': { padding: '12px 16px 4px', margin: 0 },
  '& ul': { listStyle: 'none', margin: 0, padding: 0 },
  '& li + li': { borderTop: '1px solid var(--hm-rule)' },
  '& a': {
    display: 'grid',
    gridTemplateColumns: 'minmax(0,1fr) auto',
    gap: '0 20px',
    padding: '9px 16px',
    textDecoration: 'none',
    '&:hover': { backgroundColor: 'var(--hm-chosen)' },
  },
  '& .name': { font: `650 16px/1.3 ${HEADING}` },
  '& .part': { gridRow: '1/3', gridColumn: 2, alignSelf: 'center', textAlign: 'right' },
  '& .rest': { padding: '10px 16px', margin: 0 },
})
const Columns = styled('div')({
  display: 'grid',
  gridTemplateColumns: '3fr 2fr',
  gap: 14,
  marginTop: 14,
  alignItems: 'start',
  '@media screen and (max-width:900px)': { gridTemplateColumns: 'minmax(0,1fr)' },
})

const Stack = styled('div')({ display: 'grid', gap: 14, alignItems: 'start' })

const NOUNS: Record<Noun, { title: string; one: string; none: string }> = {
  systems: {
    title: 'Systems',
    one: 'system',
    none: 'None yet: note one, or import readings that name it.',
  },
  machines: {
    title: 'Machines',
    one: 'machine',
    none: 'None yet: make virtual machines (V), note one (M), or enrol a computer with ./haremile rig key.',
  },
}

/** Systems and machines, and what is known of them. */
export function LibraryPage() {
  const [typed, setTyped] = useState('')
  const [adding, setAdding] = useState<Noun | null>(null)
  const [isMaking, setMaking] = useState(false)
  const [isDefining, setDefining] = useState(false)
  const search = useRef<HTMLInputElement>(null)
  const list = useRef<HTMLDivElement>(null)
  useEffect(() => {
    document.title = 'Library · Hare Mile'
  }, [])
  useShortcuts([
    { key: '/', says: 'Find a system or a machine', run: () => search.current?.focus() },
    { key: 'n', says: 'Note a system', run: () => setAdding('systems') },
    { key: 'm', says: 'Note a machine', run: () => setAdding('machines') },
    { key: 'd', says: 'Define a measure of your own', run: () => setDefining(true) },
    { key: 'v', says: 'Make virtual machines', run: () => setMaking(true) },
  ])
  useLinkKeys(list, 'Next in the library', 'The one before')
  return (
    <Main>
      <TitleBar>
        <div>
          <h1>Library</h1>
          <Soft as="div">systems and machines, what is known of them, and measures of your own</Soft>
        </div>
        <Actions>
          <Button variant="outlined" color="inherit" onClick={() => setDefining(true)}>
            Define a measure
            <KeyHint name="D" />
          </Button>
          <Button variant="outlined" color="inherit" onClick={() => setMaking(true)}>
            Make virtual machines
            <KeyHint name="V" />
          </Button>
          <Button variant="outlined" color="inherit" onClick={() => setAdding('machines')}>
            Note a machine
            <KeyHint name="M" />
          </Button>
          <Button variant="contained" onClick={() => setAdding('systems')}>
            Note a system
            <KeyHint name="N" />
          </Button>
        </Actions>
      </TitleBar>
      <TextField
        sx={{ mt: 1.5 }}
        fullWidth
        size="small"
        label="Find by name, desktop, release, …  ( / )"
        value={typed}
        inputRef={search}
        onChange={(event) => setTyped(event.target.value)}
        onKeyDown={(event) => {
          if (event.key === 'Escape') search.current?.blur()
          if (event.key === 'Enter') list.current?.querySelector('a')?.focus()
        }}
      />
      <Columns ref={list}>
        <ThingList noun="systems" typed={typed} />
        <Stack>
          <ThingList noun="machines" typed={typed} />
          <OwnMeasures
            isDefining={isDefining}
            onDefine={() => setDefining(true)}
            onClose={() => setDefining(false)}
          />
        </Stack>
      </Columns>
      {isMaking && <LadderDialog onClose={() => setMaking(false)} onDone={() => setMaking(false)} />}
      {adding && <AddDialog noun={adding} onClose={() => setAdding(null)} />}
    </Main>
  )
}

function AddDialog({ noun, onClose }: { noun: Noun; onClose: () => void }) {
  const add = useAddThing(noun)
  const navigate = useNavigate()
  return (
    <LineDialog
      title={`Note a ${NOUNS[noun].one}`}
      label="Name"
      action="Note it"
      error={add.error}
      isPending={add.isPending}
      onClose={onClose}
      onSay={(name) =>
        add.mutate(name, { onSuccess: (made) => void navigate(`/library/${noun}/${made.id}`) })
      }
    >
      Only its name is needed. What is known of it can be stated then, with where it comes from.
    </LineDialog>
  )
}

function ThingList({ noun, typed }: { noun: Noun; typed: string }) {
  const [isAway, setAway] = useState(false)
  const things = useQuery(thingsQuery(noun, isAway))
  const found = matching(things.data ?? [], typed)
  return (
    <Things as="section" aria-label={NOUNS[noun].title}>
      <h2>{NOUNS[noun].title}</h2>
      {things.isPending && <Loading what={`the ${noun}`} />}
      {things.error && <Failed error={things.error} onRetry={() => void things.refetch()} />}
      {things.data && found.length === 0 && (
        <p className="rest">
          {typed ? `None with “${typed}” in it.` : isAway ? 'None is put away.' : NOUNS[noun].none}
        </p>
      )}
      <ul>
        {found.map((thing) => (
          <li key={thing.id}>
            <ThingLine noun={noun} thing={thing} />
          </li>
        ))}
      </ul>
      <SoftSmall as="p" className="rest">
        <LinkButton onClick={() => setAway(!isAway)}>
          {isAway ? `Show ${noun} in use` : `Show ${noun} that were put away`}
        </LinkButton>
      </SoftSmall>
    </Things>
  )
}

const SHOWN = ['desktop', 'channel', 'memory', 'storage', 'cores', 'supported_until']

function ThingLine({ noun, thing }: { noun: Noun; thing: Thing }) {
  const known = [
    ...Object.entries(thing.identity)
      .filter(([key]) => key !== 'distribution')
      .map(([, value]) => value),
    ...SHOWN.map((key) => thing.stated[key] ?? thing.found[key]),
  ].filter(Boolean)
  return (
    <Link to={`/library/${noun}/${thing.id}`}>
      <span className="name">{thing.name}</span>
      <SoftSmall>{known.length ? known.join(' · ') : 'nothing stated yet'}</SoftSmall>
      <SoftSmall className="part">{thing.studies ? count(thing.studies, 'study', 'studies') : ''}</SoftSmall>
    </Link>
  )
}
