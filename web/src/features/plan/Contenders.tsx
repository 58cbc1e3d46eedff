import Alert from '@mui/material/Alert'
import Checkbox from '@mui/material/Checkbox'
import FormControlLabel from '@mui/material/FormControlLabel'
import { styled } from '@mui/material/styles'
import { useQuery } from '@tanstack/react-query'
import { useRef } from 'react'
import { Link } from 'react-router'

import { usePutByHand } from '@/api/byHand'
import { usePutOn, type Draft } from '@/api/plan'
import { LaneSign } from '@/charts/marks/LaneMark'
import { installsQuery } from '@/api/queries'
import { thingsQuery } from '@/api/things'
import type { Install } from '@/api/types'
import { KeyHint } from '@/ui/KeyHint'
import { Actions, Box, LinkButton, Soft, SoftSmall } from '@/ui/kit'
import { Select } from '@/ui/Select'
import { useShortcuts } from '@/ui/shortcuts'
import { Loading } from '@/ui/States'

import { entrantNumbers, grid, referencesFor, type Cell, type Thing } from './grid'

const Table = styled('table')({
  borderCollapse: 'collapse',
  width: '100%',
  fontSize: 14,
  '& th': { textAlign: 'left', fontWeight: 600, padding: '5px 10px 5px 0', verticalAlign: 'bottom' },
  '& thead th': { fontWeight: 500, fontSize: 13 },
  '& td': { padding: '0 10px 0 0', verticalAlign: 'middle' },
  '& tbody tr': { borderTop: '1px solid var(--hm-rule)' },
})
const Wide = styled('div')({ overflowX: 'auto' })

type Props = { draft: Draft; onChange: (part: Partial<Draft>) => void }

/** Who takes part, on what: systems as rows, machines as columns. */
export function Contenders({ draft, onChange }: Props) {
  const installs = useQuery(installsQuery())
  const systems = useQuery(thingsQuery('systems'))
  const machines = useQuery(thingsQuery('machines'))
  const addSystem = useRef<HTMLSelectElement>(null)
  const addMachine = useRef<HTMLSelectElement>(null)
  const make = usePutOn()
  const person = usePutByHand()
  useShortcuts([
    { key: 'a', says: 'Add a system to the plan', run: () => addSystem.current?.focus() },
    { key: 'm', says: 'Add a machine to the plan', run: () => addMachine.current?.focus() },
  ])
  const error = installs.error ?? systems.error ?? machines.error
  if (error) return <Alert severity="error">{error.message}</Alert>
  if (!installs.data || !systems.data || !machines.data) return <Loading what="systems and machines" />
  const shape = grid(draft, installs.data, systems.data, machines.data)
  const marks = entrantNumbers(draft, installs.data)
  const toggle = (id: string) =>
    onChange({
      installs: draft.installs.includes(id)
        ? draft.installs.filter((one) => one !== id)
        : [...draft.installs, id],
      // what was shown stays in sight when its last contender is taken out
      systems: shape.systems.map((one) => one.id),
      machines: shape.machines.map((one) => one.id),
    })
  const made = ({ system, machine }: Cell) =>
    make.mutate({ system: system.id, machine: machine.id }, { onSuccess: (install) => toggle(install.id) })
  const byHand = ({ system, machine }: Cell) =>
    person.mutate({ system: system.id, machine: machine.id }, { onSuccess: (install) => toggle(install.id) })
  return (
    <Box as="section" aria-label="Who, on what">
      <h2>Who, on what</h2>
      {shape.systems.length > 0 && shape.machines.length > 0 ? (
        <Wide>
          <Table>
            <thead>
              <tr>
                <th scope="col">
                  <span hidden>System</span>
                </th>
                {shape.machines.map((machine) => (
                  <th key={machine.id} scope="col">
                    {machine.name}
                    <br />
                    <SoftSmall>{about(machine)}</SoftSmall>
                  </th>
                ))}
              </tr>
            </thead>
            <tbody>
              {shape.cells.map((row, place) => (
                <tr key={shape.systems[place]!.id}>
                  <th scope="row">
                    {marks.has(shape.systems[place]!.name) && (
                      <LaneSign laneNo={marks.get(shape.systems[place]!.name)!} />
                    )}
                    {shape.systems[place]!.name}
                  </th>
                  {row.map((cell) => (
                    <td key={cell.machine.id}>
                      <Choices
                        cell={cell}
                        chosen={draft.installs}
                        onToggle={toggle}
                        onMake={made}
                        onByHand={byHand}
                      />
                    </td>
                  ))}
                </tr>
              ))}
            </tbody>
          </Table>
        </Wide>
      ) : (
        <Soft as="p">
          {shape.systems.length
            ? 'Add a machine: then choose which systems run on it.'
            : systems.data.length
              ? 'Add the systems that are compared, and the machines that they run on.'
              : 'Nothing can be run yet. Note a system and its image in the library, and make a machine for it.'}{' '}
          <Link to="/library">Open the library</Link>
        </Soft>
      )}
      <Actions sx={{ mt: 1 }}>
        <Adder
          label="Add a system"
          hint="A"
          input={addSystem}
          things={systems.data.filter((one) => !shape.systems.includes(one))}
          onAdd={(id) =>
            onChange({
              systems: [...new Set([...shape.systems.map((one) => one.id), id])],
              machines: shape.machines.map((one) => one.id),
            })
          }
        />
        <Adder
          label="Add a machine"
          hint="M"
          input={addMachine}
          things={machines.data.filter((one) => !shape.machines.includes(one))}
          onAdd={(id) =>
            onChange({
              machines: [...new Set([...shape.machines.map((one) => one.id), id])],
              systems: shape.systems.map((one) => one.id),
            })
          }
        />
      </Actions>
      {referencesFor(draft, installs.data).map((one) => (
        <SoftSmall as="p" key={one.id}>
          {one.system.name} on {one.machine.name} is a reference: with it in every study they can be linked.{' '}
          <LinkButton onClick={() => toggle(one.id)}>Add it</LinkButton>
        </SoftSmall>
      ))}
      {(make.error ?? person.error) && (
        <Alert severity="error">{(make.error ?? person.error)!.message}</Alert>
      )}
    </Box>
  )
}

const about = (machine: Thing) =>
  [
    machine.stated.memory ?? machine.found.memory,
    (machine.stated.cores ?? machine.found.cores) && `${machine.stated.cores ?? machine.found.cores} cores`,
  ]
    .filter(Boolean)
    .join(', ')

type ChoicesProps = {
  cell: Cell
  chosen: readonly string[]
  onToggle: (id: string) => void
  onMake: (cell: Cell) => void
  onByHand: (cell: Cell) => void
}

function Choices({ cell, chosen, onToggle, onMake, onByHand }: ChoicesProps) {
  const name = `${cell.system.name} on ${cell.machine.name}`
  if (cell.canBeMade)
    return (
      <FormControlLabel
        control={
          <Checkbox
            size="small"
            checked={false}
            onChange={() => onMake(cell)}
            slotProps={{ input: { 'aria-label': name } }}
          />
        }
        label={<SoftSmall>is made when chosen</SoftSmall>}
      />
    )
  const operated = cell.installs.filter((install) => install.rig !== null)
  if (!operated.length)
    return (
      <FormControlLabel
        control={
          <Checkbox
            size="small"
            checked={false}
            onChange={() => onByHand(cell)}
            slotProps={{ input: { 'aria-label': `${name}, by hand` } }}
          />
        }
        label={<SoftSmall>by hand</SoftSmall>}
      />
    )
  return operated.map((install) => (
    <FormControlLabel
      key={install.id}
      control={
        <Checkbox
          size="small"
          checked={chosen.includes(install.id)}
          onChange={() => onToggle(install.id)}
          slotProps={{ input: { 'aria-label': named(name, install) } }}
        />
      }
      label={<SoftSmall>{install.rig === 'person' ? `by hand ${install.name}` : install.name}</SoftSmall>}
    />
  ))
}

const named = (name: string, install: Install) => (install.name ? `${name} (${install.name})` : name)

type AdderProps = {
  label: string
  hint: string
  input: React.RefObject<HTMLSelectElement | null>
  things: readonly Thing[]
  onAdd: (id: string) => void
}

const Adder = ({ label, hint, input, things, onAdd }: AdderProps) => (
  <span>
    <Select
      value=""
      inputRef={input}
      disabled={!things.length}
      onChange={(event) => onAdd(event.target.value)}
      inputProps={{ 'aria-label': label }}
    >
      <option value="">{label} …</option>
      {things.map((one) => (
        <option key={one.id} value={one.id}>
          {one.name}
        </option>
      ))}
    </Select>
    <KeyHint name={hint} />
  </span>
)
