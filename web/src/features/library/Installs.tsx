import Alert from '@mui/material/Alert'
import Table from '@mui/material/Table'
import TableBody from '@mui/material/TableBody'
import TableCell from '@mui/material/TableCell'
import TableContainer from '@mui/material/TableContainer'
import TableRow from '@mui/material/TableRow'
import { useQuery } from '@tanstack/react-query'
import { useState } from 'react'

import { installsOfQuery, useChangeInstall } from '@/api/machines'
import type { Noun } from '@/api/things'
import type { Schemas } from '@/api/types'
import { count, moment } from '@/format/numbers'
import { Inset, LinkButton, PanelTop, Sheet, Soft, SoftSmall } from '@/ui/kit'
import { LineDialog } from '@/ui/LineDialog'
import { Loading } from '@/ui/States'
import { UndoBar } from '@/ui/UndoBar'

import { Switching } from './Switching'

type History = Schemas['InstallHistoryOut']

const RIGS: Record<string, string> = {
  guest: 'a virtual machine of this computer',
  enrolled: 'works by itself',
  here: 'this computer',
  simulated: 'simulated',
  person: 'a person measures it',
}
const SHOWN = 6

/** The installs of a system, or on a machine: how each is run, and how its state changed from run to run. */
export function Installs({ noun, thing }: { noun: Noun; thing: string }) {
  const installs = useQuery(installsOfQuery(noun, thing))
  const away = useChangeInstall()
  const [undo, setUndo] = useState<string | null>(null)
  const [noted, setNoted] = useState<History | null>(null)
  const [before, setBefore] = useState<History | null>(null)
  const note = (one: History, added: string) => away.mutateAsync({ id: one.install.id, body: { added } })
  const put = (id: string, isAway: boolean) =>
    away.mutate({ id, body: { is_put_away: isAway } }, { onSuccess: () => setUndo(isAway ? id : null) })
  return (
    <Sheet as="section" aria-label="Installs" sx={{ mt: 1.75 }}>
      <PanelTop>
        <h2>Installs</h2>
        <Soft>
          {noun === 'systems' ? 'where it is installed' : 'what is installed on it'}, and what changed there
        </Soft>
      </PanelTop>
      {installs.isPending && <Loading what="the installs" />}
      {(installs.error ?? away.error) && (
        <Alert severity="error">{(installs.error ?? away.error)!.message}</Alert>
      )}
      {installs.data?.length === 0 && (
        <Inset>None yet: choose its image above and prove it, enrol a computer, or import readings.</Inset>
      )}
      {installs.data && installs.data.length > 0 && (
        <TableContainer>
          <Table size="small">
            <TableBody>
              {installs.data.map((one) => (
                <TableRow key={one.install.id}>
                  <TableCell>
                    <b>{noun === 'systems' ? one.install.machine.name : one.install.system.name}</b>
                    {one.install.name ? ` (${one.install.name})` : ''}
                    <SoftSmall as="div">
                      {[
                        RIGS[one.install.rig ?? ''] ?? 'nothing operates it',
                        one.install.recipe.image ?? '',
                        count(one.runs, 'run'),
                        one.install.is_reference ? 'a reference' : '',
                        one.is_put_away ? 'put away' : '',
                      ]
                        .filter(Boolean)
                        .join(', ')}
                    </SoftSmall>
                    <SoftSmall as="div">
                      {one.added ? `Added since installing: ${one.added} ` : ''}
                      <LinkButton
                        aria-label={`Say what was added to the install on ${one.install.machine.name}`}
                        onClick={() => setNoted(one)}
                      >
                        {one.added ? 'Change' : 'Say what was added'}
                      </LinkButton>
                    </SoftSmall>
                    {one.install.rig === 'enrolled' && <Switching install={one.install} />}
                  </TableCell>
                  <TableCell>
                    <Changes history={one} />
                  </TableCell>
                  <TableCell align="right">
                    <LinkButton
                      aria-label={`${one.is_put_away ? 'Bring back' : 'Put away'} the install on ${one.install.machine.name}`}
                      onClick={() => put(one.install.id, !one.is_put_away)}
                    >
                      {one.is_put_away ? 'Bring back' : 'Put away'}
                    </LinkButton>
                    {one.install.rig !== null && (
                      <div>
                        <LinkButton
                          onClick={() =>
                            away.mutate({
                              id: one.install.id,
                              body: { is_reference: !one.install.is_reference },
                            })
                          }
                        >
                          {one.install.is_reference ? 'No reference any more' : 'Make it a reference'}
                        </LinkButton>
                      </div>
                    )}
                  </TableCell>
                </TableRow>
              ))}
            </TableBody>
          </Table>
        </TableContainer>
      )}
      {noted && (
        <LineDialog
          title="Added since installing"
          label="What was added, empty for nothing"
          action="Note it"
          initial={noted.added}
          mayBeEmpty
          error={away.error}
          isPending={away.isPending}
          onClose={() => setNoted(null)}
          onSay={(text) =>
            void note(noted, text).then(() => {
              setNoted(null)
              setBefore(noted)
            })
          }
        >
          Programs and tools that you installed yourself: they weigh in packages and space.
        </LineDialog>
      )}
      {before && (
        <UndoBar
          says="What was added is noted."
          onUndo={() => void note(before, before.added)}
          onDone={() => setBefore(null)}
        />
      )}
      {undo && (
        <UndoBar
          says="The install is put away."
          onUndo={() => put(undo, false)}
          onDone={() => setUndo(null)}
        />
      )}
    </Sheet>
  )
}

function Changes({ history }: { history: History }) {
  const [isAll, setAll] = useState(false)
  if (!history.changes.length)
    return <SoftSmall>{history.runs ? 'its runs state nothing of it' : 'never run'}</SoftSmall>
  const shown = isAll ? history.changes : history.changes.slice(0, SHOWN)
  return (
    <>
      {shown.map((one) => (
        <div key={`${one.key} ${one.at ?? ''} ${one.after}`}>
          {one.label} <b>{one.after}</b>
          <SoftSmall>
            {one.before === null ? '' : `, before ${one.before}`}
            {one.at ? `, ${moment(one.at)}` : ''}
          </SoftSmall>
        </div>
      ))}
      {history.changes.length > SHOWN && (
        <LinkButton onClick={() => setAll(!isAll)}>
          {isAll ? 'The newest only' : `${history.changes.length - SHOWN} more`}
        </LinkButton>
      )}
    </>
  )
}
