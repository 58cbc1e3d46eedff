import Alert from '@mui/material/Alert'
import Button from '@mui/material/Button'
import { styled } from '@mui/material/styles'
import { useQuery } from '@tanstack/react-query'
import { useState } from 'react'

import { keysQuery, signsQuery, useMakeKey, useRevokeKeys } from '@/api/machines'
import { count, moment } from '@/format/numbers'
import { Actions, Inset, PanelTop, Sheet, Soft, SoftSmall, Working } from '@/ui/kit'
import { LineDialog } from '@/ui/LineDialog'
import { SecretDialog } from '@/ui/SecretDialog'

const Line = styled('pre')({
  font: '13px/1.5 ui-monospace,monospace',
  whiteSpace: 'pre-wrap',
  overflowWrap: 'anywhere',
  backgroundColor: 'var(--hm-paper)',
  border: '1px solid var(--hm-rule)',
  padding: '8px 12px',
  margin: '6px 0',
  userSelect: 'all',
})

/** The keys by which a computer works for this bench by itself, and its last sign. */
export function MachineKeys({ machine }: { machine: string }) {
  const [isAwaited, setAwaited] = useState(false)
  const [since, setSince] = useState('')
  const [isShown, setShown] = useState(false)
  const [isRevoking, setRevoking] = useState(false)
  const signs = useQuery(signsQuery(isAwaited))
  const keys = useQuery(keysQuery(machine))
  const make = useMakeKey(machine)
  const revoke = useRevokeKeys(machine)
  const sign = signs.data?.find((one) => one.machine === machine)
  const isSeen = sign !== undefined && sign.seen_at > since
  const inUse = (keys.data ?? []).filter((one) => one.revoked_at === null)
  const begin = () =>
    make.mutate(undefined, {
      onSuccess: () => {
        setSince(sign?.seen_at ?? '')
        setAwaited(true)
        setShown(true)
      },
    })
  return (
    <Sheet as="section" aria-label="Works by itself" sx={{ mt: 1.75 }}>
      <PanelTop>
        <h2>Works by itself</h2>
        <Soft>a computer that asks for its runs, and boots by itself</Soft>
      </PanelTop>
      <Actions sx={{ padding: '0 16px 10px', alignItems: 'center' }}>
        <Button variant="outlined" color="inherit" onClick={begin} disabled={make.isPending}>
          {inUse.length ? 'Make another key' : 'Enrol this computer'}
        </Button>
        {inUse.length > 0 && (
          <Button color="inherit" onClick={() => setRevoking(true)}>
            Revoke its {count(inUse.length, 'key')}
          </Button>
        )}
        <SoftSmall>
          {sign
            ? `last sign ${moment(sign.seen_at)}${sign.system ? `, in ${sign.system}` : ''}${sign.is_leaving ? ', leaving' : ''}`
            : 'no sign of it yet'}
        </SoftSmall>
      </Actions>
      {isAwaited && !isSeen && (
        <Inset>
          <Working role="status" aria-label="Waiting for its first sign" />
          Waiting for its first sign: paste the line there, then type the key.
        </Inset>
      )}
      {isAwaited && isSeen && <Alert severity="success">Its first sign is there: it is enrolled.</Alert>}
      {(make.error ?? revoke.error ?? keys.error) && (
        <Alert severity="error">{(make.error ?? revoke.error ?? keys.error)!.message}</Alert>
      )}
      {(keys.data ?? []).map((one) => (
        <Inset key={one.name}>
          <SoftSmall>
            key {one.name.slice(0, 8)}, made {moment(one.made_at)}
            {one.revoked_at ? `, revoked ${moment(one.revoked_at)}` : ''}
          </SoftSmall>
        </Inset>
      ))}
      {isShown && make.data && (
        <SecretDialog title={`A key of ${machine}`} secret={make.data.key} onClose={() => setShown(false)}>
          <Soft as="p">
            It is shown this once. It is typed there when it is asked for, and never stands in a command.
          </Soft>
          {make.data.line ? (
            <>
              <Soft as="p">On that computer, paste this line; then type the key:</Soft>
              <Line>{make.data.line}</Line>
            </>
          ) : (
            <Soft as="p">
              This server is heard on its own computer only. Start it with ./haremile serve --listen ADDRESS,
              and the line to paste stands here.
            </Soft>
          )}
        </SecretDialog>
      )}
      {isRevoking && (
        <LineDialog
          title={`Revoke all keys of ${machine}`}
          label={`Type its name: ${machine}`}
          action="Revoke"
          error={revoke.error}
          isPending={revoke.isPending}
          onClose={() => setRevoking(false)}
          onSay={(typed) =>
            typed === machine && revoke.mutate(undefined, { onSuccess: () => setRevoking(false) })
          }
        >
          It can then neither ask for runs nor bring captures, until it is enrolled anew.
        </LineDialog>
      )}
    </Sheet>
  )
}
