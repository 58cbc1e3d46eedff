import Button from '@mui/material/Button'
import Table from '@mui/material/Table'
import TableBody from '@mui/material/TableBody'
import TableCell from '@mui/material/TableCell'
import TableContainer from '@mui/material/TableContainer'
import TableHead from '@mui/material/TableHead'
import TableRow from '@mui/material/TableRow'
import { useState } from 'react'

import { amount, figure } from '@/format/numbers'
import { KeyHint } from '@/ui/KeyHint'
import { Inset, LinkButton, PanelTop, Sheet, Soft, SoftSmall } from '@/ui/kit'
import { later } from '@/ui/later'
import { useShortcuts } from '@/ui/shortcuts'
import { Tag } from '@/ui/Tag'
import { UndoBar } from '@/ui/UndoBar'

import { useChangeClaim, type ClaimLine } from '@/api/things'

import { usePlanFor } from './usePlanFor'

const ClaimDialog = later(() => import('./ClaimDialog').then((module) => module.ClaimDialog), 'dialog')

const KEPT: Record<string, { kind: string; says: string }> = {
  kept: { kind: 'ahead', says: 'The whole interval of the median lies within the claim.' },
  'not kept': { kind: 'behind', says: 'The whole interval of the median lies beyond the claim.' },
  undecided: { kind: 'open', says: 'The claim lies within the interval, or there are too few readings.' },
}

/** What the makers say of a system, and beside it what was measured here. */
type Props = { system: string; name: string; claims: readonly ClaimLine[] }

export function Claims({ system, name, claims }: Props) {
  const [isAdding, setAdding] = useState(false)
  const [isAway, setAway] = useState(false)
  const [out, setOut] = useState<string | null>(null)
  const change = useChangeClaim(system)
  useShortcuts([{ key: 'c', says: 'Note a claim of the makers', run: () => setAdding(true) }])
  const shown = claims.filter((one) => one.claim.is_put_away === isAway)
  const takeOut = (claim: string, isPutAway: boolean) =>
    change.mutate({ claim, isPutAway }, { onSuccess: () => setOut(isPutAway ? claim : null) })
  const away = claims.filter((one) => one.claim.is_put_away).length
  return (
    <Sheet as="section" sx={{ mt: 1.75 }}>
      <PanelTop>
        <h2>Claims</h2>
        <Soft>what its makers say of it, and what was measured here</Soft>
        <Button
          size="small"
          variant="outlined"
          color="inherit"
          className="spread"
          onClick={() => setAdding(true)}
        >
          Note a claim
          <KeyHint name="C" />
        </Button>
      </PanelTop>
      {shown.length === 0 && (
        <Inset>
          {isAway
            ? 'None was taken out.'
            : 'None yet. A claim beside a measurement tells whether it is kept.'}
        </Inset>
      )}
      {shown.length > 0 && (
        <TableContainer>
          <Table>
            <TableHead>
              <TableRow>
                <TableCell>Claim</TableCell>
                <TableCell>Measured here</TableCell>
                <TableCell />
              </TableRow>
            </TableHead>
            <TableBody>
              {shown.map((line) => (
                <TableRow key={line.claim.id}>
                  <TableCell>
                    {line.label} <b>{amount(line.claim.amount, line.scale)}</b>
                    <SoftSmall as="div">
                      {[
                        line.claim.is_own_guess ? 'my own guess' : '',
                        line.claim.source.text,
                        line.claim.source.on,
                      ]
                        .filter(Boolean)
                        .join(', ')}
                    </SoftSmall>
                  </TableCell>
                  <TableCell>
                    <Measured line={line} system={system} name={name} />
                  </TableCell>
                  <TableCell align="right">
                    <LinkButton onClick={() => takeOut(line.claim.id, !isAway)}>
                      {isAway ? 'Bring back' : 'Take out'}
                    </LinkButton>
                  </TableCell>
                </TableRow>
              ))}
            </TableBody>
          </Table>
        </TableContainer>
      )}
      {(away > 0 || isAway) && (
        <Inset>
          <LinkButton onClick={() => setAway(!isAway)}>
            {isAway ? 'Show the claims that hold' : `Show ${away} taken out`}
          </LinkButton>
        </Inset>
      )}
      {isAdding && <ClaimDialog system={system} onClose={() => setAdding(false)} />}
      {out && (
        <UndoBar
          says="The claim is taken out."
          onUndo={() => takeOut(out, false)}
          onDone={() => setOut(null)}
        />
      )}
    </Sheet>
  )
}

function Measured({ line, system, name }: { line: ClaimLine; system: string; name: string }) {
  const plan = usePlanFor(system)
  if (line.metric === null) return <Soft>nothing that is measured answers it</Soft>
  if (!line.measured.length)
    return (
      <>
        <Soft>not measured yet </Soft>
        <LinkButton
          disabled={plan.isPending}
          onClick={() => plan.start(`${line.label}: does ${name} keep it?`, line.metric!)}
        >
          Plan it
        </LinkButton>
        {plan.error && <Soft> {plan.error.message}</Soft>}
      </>
    )
  return line.measured.map((one) => (
    <div key={`${one.machine} ${one.method} ${one.medium}`}>
      <Tag kind={KEPT[one.kept]!.kind} word={one.kept} says={KEPT[one.kept]!.says} />{' '}
      <b>{amount(one.median, line.scale)}</b>
      {one.low !== null && one.high !== null
        ? ` (${figure(one.low, line.scale)} to ${amount(one.high, line.scale)})`
        : ''}{' '}
      <SoftSmall>
        {[line.beside, one.machine, one.medium, one.method, `n = ${one.n}`].filter(Boolean).join(', ')}
      </SoftSmall>
    </div>
  ))
}
