import Button from '@mui/material/Button'
import { useMutation, useQuery } from '@tanstack/react-query'
import { useRef, useState } from 'react'
import { Link } from 'react-router'

import { fetchFile } from '@/api/files'
import {
  commandsQuery,
  lookIntoPackage,
  packageAddress,
  useApproveCommands,
  useTakePackage,
  type PackageTaken,
} from '@/api/packages'
import { count } from '@/format/numbers'
import { handOut } from '@/ui/keep'
import { KeyHint } from '@/ui/KeyHint'
import { Actions, Box, Headline, LinkButton, Main, Sheet, Soft, Stack, TitleBar, Working } from '@/ui/kit'
import { useShortcuts } from '@/ui/shortcuts'
import { Failed } from '@/ui/States'
import { useFileDrop, DropHint } from '@/ui/useFileDrop'

import { PackageList } from './PackageList'

/** Studies handed on to another bench book, and taken in from one. */
export function PackagesPage() {
  const [file, setFile] = useState<File | null>(null)
  const [renamed, setRenamed] = useState<readonly string[]>([])
  const [isTheirs, setTheirs] = useState(false)
  const [taken, setTaken] = useState<PackageTaken | null>(null)
  const look = useMutation({ mutationFn: lookIntoPackage })
  const take = useTakePackage()
  const hand = useMutation({
    mutationFn: async () => handOut('haremile-bench-book.zip', await fetchFile(packageAddress())),
  })
  const chooser = useRef<HTMLInputElement>(null)
  const bring = (files: readonly File[]) => {
    const [one] = files
    if (!one) return
    setFile(one)
    setTaken(null)
    setRenamed([])
    look.mutate({ file: one, renamed: [], isTheirs: false })
  }
  const isOver = useFileDrop(bring)
  useShortcuts([
    { key: 'x', says: 'Hand the whole bench book on', run: () => !hand.isPending && hand.mutate() },
    { key: 't', says: 'Choose a package to take in', run: () => chooser.current?.focus() },
  ])
  const keep = () =>
    file &&
    take.mutate(
      { file, renamed, isTheirs },
      {
        onSuccess: (found) => {
          setTaken(found)
          setFile(null)
          look.reset()
        },
      },
    )
  return (
    <Main>
      <TitleBar>
        <div>
          <h1>Packages</h1>
          <Soft as="div">studies handed from one bench book to another, with all that they rest on</Soft>
        </div>
        <Actions>
          <Button variant="contained" disabled={hand.isPending} onClick={() => hand.mutate()}>
            Hand the whole bench book on
            <KeyHint name="X" />
          </Button>
        </Actions>
      </TitleBar>
      {hand.isPending && <Working role="status">Writing the package …</Working>}
      {hand.error && <Failed error={hand.error} />}
      {isOver && <DropHint />}
      <Stack>
        <Box as="section" aria-label="Take a package in">
          <label>
            Take a package in <KeyHint name="T" />{' '}
            <input
              ref={chooser}
              type="file"
              accept=".zip"
              aria-label="Package file"
              onChange={(event) => bring([...(event.target.files ?? [])])}
            />
          </label>
          <Soft as="p">
            It is looked at first: nothing is kept before you say so. Commands inside it are run by nobody
            before you approve them.
          </Soft>
          {look.isPending && <Working role="status">Looking at it …</Working>}
          {look.error && <Failed error={look.error} />}
          {take.error && <Failed error={take.error} />}
        </Box>
        {file && look.data && (
          <PackageList
            found={look.data}
            renamed={renamed}
            isTheirs={isTheirs}
            onRename={setRenamed}
            onTheirs={setTheirs}
            isBusy={take.isPending}
            onTake={keep}
          />
        )}
        {taken && <Taken taken={taken} />}
        <Waiting />
      </Stack>
    </Main>
  )
}

const Taken = ({ taken }: { taken: PackageTaken }) => (
  <Sheet as="section" aria-label="Taken in" sx={{ pb: 1.5 }}>
    <Headline sx={{ pt: 1.25 }}>
      Taken in from {taken.origin_name || 'another bench book'}: {count(taken.rows, 'row')}
    </Headline>
    <ul>
      {taken.studies.map((one) => (
        <li key={one.id}>
          {one.what === 'deleted here' ? (
            one.title
          ) : (
            <Link to={`/studies/${one.id}/findings`}>{one.title || 'a draft'}</Link>
          )}
          : {one.what}
        </li>
      ))}
    </ul>
  </Sheet>
)

function Waiting() {
  const waiting = useQuery(commandsQuery())
  const approve = useApproveCommands()
  if (waiting.error) return <Failed error={waiting.error} onRetry={() => void waiting.refetch()} />
  if (!waiting.data?.length) return null
  return (
    <Sheet as="section" aria-label="Commands that wait" sx={{ pb: 1.5 }}>
      <Headline as="h2" sx={{ pt: 1.25, fontSize: 18 }}>
        Commands from elsewhere wait to be approved
      </Headline>
      {approve.error && <Failed error={approve.error} />}
      <ul>
        {waiting.data.map((one) => (
          <li key={one.install}>
            {one.name}
            <ul>
              {Object.entries(one.commands).map(([name, text]) => (
                <li key={name}>
                  {name}: <code>{text}</code>
                </li>
              ))}
            </ul>
            <LinkButton
              aria-label={`Approve the commands of ${one.name}`}
              onClick={() => approve.mutate({ install: one.install, isApproved: true })}
            >
              Approve
            </LinkButton>{' '}
            <LinkButton
              aria-label={`Forget the commands of ${one.name}`}
              onClick={() => approve.mutate({ install: one.install, isApproved: false })}
            >
              Forget
            </LinkButton>
          </li>
        ))}
      </ul>
    </Sheet>
  )
}
