import Alert from '@mui/material/Alert'
import Button from '@mui/material/Button'
import Table from '@mui/material/Table'
import TableBody from '@mui/material/TableBody'
import TableCell from '@mui/material/TableCell'
import TableContainer from '@mui/material/TableContainer'
import TableHead from '@mui/material/TableHead'
import TableRow from '@mui/material/TableRow'
import TextField from '@mui/material/TextField'
import { useQuery } from '@tanstack/react-query'
import { useNavigate } from 'react-router'

import { usePlanOf } from '@/api/plan'
import { rampsQuery } from '@/api/queries'
import type { LaneRamps, Ramps, Study } from '@/api/types'
import { rampTable, sizeText } from '@/charts/layout/ramp'
import { LaneSign } from '@/charts/marks/LaneMark'
import { RampPicture } from '@/charts/RampPicture'
import { Actions, Box, Soft, SoftSmall, Stack } from '@/ui/kit'
import { DataTable } from '@/ui/DataTable'
import { Failed, Loading } from '@/ui/States'
import { Tag } from '@/ui/Tag'

import { Panel } from '../Panel'
import { useView } from '@/ui/useView'

const USUAL = { pages: 10, reserve: 100, swap: 0 }
type Name = keyof typeof USUAL
const ASKED: readonly [Name, string, number][] = [
  ['pages', 'Pages', 1],
  ['reserve', 'Kept free, MiB', 0],
  ['swap', 'Swap, MiB', 0],
]
const MOST_SAID = 3
const FITS: Readonly<Record<string, { kind: string; says: string }>> = {
  fits: { kind: 'ahead', says: 'what is needed stays below the machine’s memory, with its whole interval' },
  'fits with swap': { kind: 'level', says: 'only with the swap that was stated' },
  'does not fit': { kind: 'behind', says: 'what is needed lies above it, with its whole interval' },
  undecided: { kind: 'undecided', says: 'the interval of what is needed lies on both sides of it' },
  'not measured': { kind: 'note', says: 'no ramp told what a page takes' },
}

/** How many pages each system carries, what each takes, and the smallest machine that carries so many. */
export function RampPanel({ study, names }: { study: Study; names: ReadonlyMap<number, string> }) {
  const view = useView()
  const asked = (name: Name) => {
    const value = Number(view.get(name) || USUAL[name])
    return Number.isFinite(value) ? value : USUAL[name]
  }
  const query = useQuery(
    rampsQuery(study.id, { pages: asked('pages'), reserve_mib: asked('reserve'), swap_mib: asked('swap') }),
  )
  if (query.error) return <Failed error={query.error} onRetry={() => void query.refetch()} />
  if (!query.data) return <Loading what="the ramps" />
  const { lanes, headline, sentences, noun } = query.data
  const machines = [...new Set(lanes.map((lane) => lane.machine))]
  return (
    <Stack>
      {machines.map((machine) => {
        const here = lanes.filter((lane) => lane.machine === machine)
        return (
          <Panel
            key={machine}
            study={study}
            title="Load"
            about={`${machine}, ${[...new Set(here.map((lane) => lane.app))].join(', ')}`}
            headline={headline}
            says={sentences.slice(0, MOST_SAID).join(' ') || 'No ramp told yet what a page takes.'}
            table={rampTable(here, names, asked('pages'), noun)}
            after={<DataTable table={rampTable(here, names, asked('pages'), noun)} />}
          >
            {(width) => <RampPicture lanes={here} names={names} noun={noun} width={width} />}
          </Panel>
        )
      })}
      {lanes.length > 0 && (
        <Smallest
          study={study}
          ramps={query.data}
          names={names}
          asked={asked}
          onAsk={(name, value) => view.put({ [name]: value })}
        />
      )}
    </Stack>
  )
}

type SmallestProps = {
  study: Study
  ramps: Ramps
  names: ReadonlyMap<number, string>
  asked: (name: Name) => number
  onAsk: (name: Name, value: string) => void
}

/** Into which machines so many pages fit. */
function Smallest({ study, ramps, names, asked, onAsk }: SmallestProps) {
  return (
    <Box as="section" aria-label="Smallest sensible machine">
      <h2>Smallest sensible machine</h2>
      <Actions sx={{ my: 1 }}>
        {ASKED.map(([name, label, least]) => (
          <TextField
            key={name}
            size="small"
            type="number"
            label={label}
            sx={{ width: 150 }}
            value={asked(name)}
            onChange={(event) => onAsk(name, event.target.value)}
            slotProps={{ htmlInput: { min: least, step: 1 } }}
          />
        ))}
      </Actions>
      <TableContainer>
        <Table>
          <TableHead>
            <TableRow>
              <TableCell>memory that the system tells of</TableCell>
              {ramps.sizes.map((size) => (
                <TableCell key={size}>{sizeText(size)}</TableCell>
              ))}
            </TableRow>
          </TableHead>
          <TableBody>
            {ramps.lanes.map((lane) => (
              <FitRow key={`${lane.lane_no} ${lane.app}`} lane={lane} name={names.get(lane.lane_no) ?? ''} />
            ))}
          </TableBody>
        </Table>
      </TableContainer>
      <Soft as="p" sx={{ mb: 0 }}>
        Calculated: memory with no page, the pages, and what is kept free. <i>Seen</i> is how many ramps on
        machines of that size really carried so many, down to the floor that they kept. A machine tells of
        somewhat less memory than is built into it.
      </Soft>
      <PlanCheck study={study} ramps={ramps} />
    </Box>
  )
}

/** What was seen on a machine of that size, beside what was calculated for it. */
const Checked = ({ check }: { check: LaneRamps['checks'][number] }) =>
  check && (
    <SoftSmall as="div">
      seen: {check.held} of {check.of}
    </SoftSmall>
  )

/** Plans the same ramps on machines of other sizes, which stand beside the calculated ones then. */
function PlanCheck({ study, ramps }: { study: Study; ramps: Ramps }) {
  const plan = usePlanOf()
  const navigate = useNavigate()
  const start = () =>
    plan.mutate(
      {
        title: `${study.title} On machines of other sizes`,
        installs: study.contenders.map((one) => one.install.id),
        procedures: [...new Set(ramps.lanes.map((lane) => `ramp:${lane.app}`))],
      },
      { onSuccess: (id) => void navigate(`/studies/${id}/plan`) },
    )
  return (
    <Actions sx={{ mt: 1 }}>
      <Button size="small" color="inherit" variant="outlined" disabled={plan.isPending} onClick={start}>
        Plan ramps on machines of other sizes
      </Button>
      {plan.error && <Alert severity="error">{plan.error.message}</Alert>}
    </Actions>
  )
}

const FitRow = ({ lane, name }: { lane: LaneRamps; name: string }) => (
  <TableRow>
    <TableCell>
      <LaneSign laneNo={lane.lane_no} />
      {name}
    </TableCell>
    {lane.fits.map((fit, i) => (
      <TableCell key={i}>
        <Tag kind={FITS[fit]?.kind ?? 'note'} word={fit} says={FITS[fit]?.says} />
        <Checked check={lane.checks[i] ?? null} />
      </TableCell>
    ))}
  </TableRow>
)
