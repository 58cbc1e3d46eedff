import Alert from '@mui/material/Alert'
import Button from '@mui/material/Button'
import { styled } from '@mui/material/styles'
import { useQuery } from '@tanstack/react-query'
import { useState } from 'react'

import { proofQuery, useEndProof, useStartProof, type Proof } from '@/api/guests'
import { thingsQuery } from '@/api/things'
import { Actions, Inset, SoftSmall, Working } from '@/ui/kit'
import { Select } from '@/ui/Select'

const Seen = styled('div')({
  display: 'grid',
  gridTemplateColumns: 'auto minmax(0,1fr)',
  gap: 14,
  padding: '0 16px 12px',
  '& img': { width: 320, maxWidth: '100%', border: '1px solid var(--hm-rule)', display: 'block' },
  '& pre': {
    margin: 0,
    font: '12.5px/1.4 ui-monospace,monospace',
    whiteSpace: 'pre-wrap',
    overflowWrap: 'anywhere',
  },
  '@media screen and (max-width:600px)': { gridTemplateColumns: 'minmax(0,1fr)' },
})

/** One boot that counts for nothing, seen live. */
export function ProofPanel({ system }: { system: string }) {
  const machines = useQuery(thingsQuery('machines'))
  const [machine, setMachine] = useState('')
  const start = useStartProof()
  const key = start.data?.id
  const able = (machines.data ?? []).filter((one) => one.makes_guests)
  const chosen = machine || able[0]?.id || ''
  return (
    <>
      <Actions sx={{ padding: '0 16px 10px', alignItems: 'center' }}>
        {able.length > 0 && (
          <label>
            <SoftSmall>Boot it once on </SoftSmall>
            <Select value={chosen} onChange={(event) => setMachine(event.target.value)}>
              {able.map((one) => (
                <option key={one.id} value={one.id}>
                  {one.name}
                </option>
              ))}
            </Select>
          </label>
        )}
        <Button
          variant="contained"
          disabled={!chosen || start.isPending}
          onClick={() => start.mutate({ system, machine: chosen })}
        >
          Prove it
        </Button>
        <SoftSmall>
          {able.length
            ? 'It counts for nothing: it only shows that the system gets ready, and that this is seen.'
            : 'Make a virtual machine in the library first (key V there).'}
        </SoftSmall>
      </Actions>
      {start.error && <Alert severity="error">{start.error.message}</Alert>}
      {key && <Running key={key} id={key} />}
    </>
  )
}

function Running({ id }: { id: string }) {
  const found = useQuery(proofQuery(id))
  const end = useEndProof()
  if (found.error) return <Alert severity="error">{found.error.message}</Alert>
  if (!found.data) return null
  const proof = found.data
  return (
    <section aria-label="The proof" aria-live="polite">
      {!proof.is_over && <Working role="status" aria-label="It boots" />}
      {proof.is_over && (
        <Alert severity={proof.is_ready ? 'success' : 'warning'}>
          {proof.machine}: {proof.said}
        </Alert>
      )}
      {!proof.is_over && (
        <Inset>
          {phase(proof)}{' '}
          <Button size="small" color="inherit" onClick={() => end.mutate(id)}>
            End it
          </Button>
        </Inset>
      )}
      <Seen>
        <span>
          {proof.picture && <img alt="Its screen just now" src={`data:image/png;base64,${proof.picture}`} />}
        </span>
        <pre aria-label="Its last lines">{proof.lines.join('\n') || proof.log_tail}</pre>
      </Seen>
    </section>
  )
}

function phase({ phases, system }: Proof): string {
  const last = phases.at(-1)
  if (!last) return `${system} is being powered on …`
  const { name, at_s: at } = last
  return `${name}${at === null ? '' : `, ${at.toFixed(1)} s after power-on`}`
}
