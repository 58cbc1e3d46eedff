import Alert from '@mui/material/Alert'
import Button from '@mui/material/Button'
import Checkbox from '@mui/material/Checkbox'
import FormControlLabel from '@mui/material/FormControlLabel'
import { styled } from '@mui/material/styles'
import TextField, { type TextFieldProps } from '@mui/material/TextField'
import { useQuery } from '@tanstack/react-query'

import { ownMeasuresQuery } from '@/api/ownMeasures'
import type { Draft } from '@/api/plan'
import { proceduresQuery } from '@/api/queries'
import { Box, LinkButton, SoftSmall } from '@/ui/kit'
import { Select } from '@/ui/Select'

import {
  appsOf,
  launchesOf,
  launchText,
  measureOf,
  rampsOf,
  rampText,
  STARTS,
  withOwn,
  withPlain,
  type Launch,
  type Ramp,
} from './draft'

const Line = styled('div')({
  display: 'grid',
  gridTemplateColumns: '150px minmax(0,1fr)',
  gap: '0 12px',
  alignItems: 'center',
  padding: '2px 0',
  '& + &': { borderTop: '1px solid var(--hm-rule)' },
  '@media screen and (max-width:600px)': { gridTemplateColumns: 'minmax(0,1fr)' },
})
const LaunchLine = styled('div')({ display: 'flex', gap: 10, flexWrap: 'wrap', padding: '6px 0' })

const SAYS: Record<string, string> = {
  boot: 'from power-on to ready; idle memory too where the system tells it',
  idle: 'memory once it has settled, under every definition',
  footprint: 'space used and packages installed',
  launch: 'how long an application takes to its window and to rest',
  power: 'how long the battery lasts, idle with its screen on; the machine has to run on it',
  sleep: 'to fall asleep, to wake by its clock, and what the battery loses; needs the helper',
  rate: 'fixed work of processor, memory and storage, by a small program of ours',
  install: 'copying, updating and configuring, timed by a person',
  'least-memory': 'the smallest memory with which it still gets ready; virtual machines only',
}

type Props = { draft: Draft; onChange: (part: Partial<Draft>) => void }

/** What is done in each block. */
export function Procedures({ draft, onChange }: Props) {
  const procedures = useQuery(proceduresQuery())
  const order = (procedures.data ?? []).map((one) => one.key)
  const launches = launchesOf(draft.procedures)
  const least = draft.procedures.find((text) => text.split(':')[0] === 'least-memory')
  const setLaunches = (next: readonly Launch[]) => {
    const rest = draft.procedures.filter((text) => !text.startsWith('launch:'))
    const before = rest.filter((text) => order.indexOf(text.split(':')[0]!) < order.indexOf('launch'))
    const after = rest.filter((text) => !before.includes(text))
    onChange({ procedures: [...before, ...next.map(launchText), ...after] })
  }
  return (
    <Box as="section" aria-label="What is done in each block">
      <h2>What is done in each block</h2>
      {procedures.error && <Alert severity="error">{procedures.error.message}</Alert>}
      {(procedures.data ?? [])
        .filter((one) => !one.names_application && !one.names_measure)
        .map((one) => (
          <Line key={one.key}>
            <FormControlLabel
              control={
                <Checkbox
                  size="small"
                  checked={draft.procedures.some((text) => text.split(':')[0] === one.key)}
                  onChange={(event) =>
                    onChange({
                      procedures: withPlain(draft.procedures, one.key, event.target.checked, order),
                    })
                  }
                />
              }
              label={one.label}
            />
            <SoftSmall>{SAYS[one.key]}</SoftSmall>
          </Line>
        ))}
      {least !== undefined && <Sizes text={least} draft={draft} onChange={onChange} />}
      <OwnMeasures draft={draft} order={order} onChange={onChange} />
      <Line>
        <span>Launches</span>
        <div>
          {launches.map((launch, place) => (
            <LaunchLine key={place}>
              <ApplicationName
                label="Application"
                placeholder="Coppicer"
                value={launch.app}
                autoFocus={!launch.app}
                onName={(app) =>
                  setLaunches(launches.map((one, at) => (at === place ? { ...one, app } : one)))
                }
              />
              <Select
                value={launch.start}
                inputProps={{ 'aria-label': 'Start condition' }}
                onChange={(event) =>
                  setLaunches(
                    launches.map((one, at) => (at === place ? { ...one, start: event.target.value } : one)),
                  )
                }
              >
                {STARTS.map((one) => (
                  <option key={one.value} value={one.value}>
                    {one.label}
                  </option>
                ))}
              </Select>
              <LinkButton
                aria-label={`Take the launch of ${launch.app || 'nothing yet'} out`}
                onClick={() => setLaunches(launches.filter((_, at) => at !== place))}
              >
                Take out
              </LinkButton>
            </LaunchLine>
          ))}
          <Button
            size="small"
            color="inherit"
            onClick={() => setLaunches([...launches, { app: '', start: 'warm' }])}
          >
            Add a launch
          </Button>
          <SoftSmall> {SAYS.launch}</SoftSmall>
        </div>
      </Line>
      <Line>
        <span>Load ramps</span>
        <div>
          <Ramps draft={draft} onChange={onChange} />
          <SoftSmall> how many pages or documents an application carries, and what each takes</SoftSmall>
        </div>
      </Line>
      <Line>
        <span>Response</span>
        <div>
          <Applications
            draft={draft}
            onChange={onChange}
            procedure="response"
            label="Application that is typed into"
            placeholder="Terminal"
          />
          <SoftSmall> how soon a key shows in it, at rest and beside other work</SoftSmall>
        </div>
      </Line>
      <Line>
        <span>Frames</span>
        <div>
          <Applications
            draft={draft}
            onChange={onChange}
            procedure="frames"
            label="Browser that plays"
            placeholder="Wayfarrow"
          />
          <SoftSmall> how many pictures of a clip and an animation it shows and drops</SoftSmall>
        </div>
      </Line>
    </Box>
  )
}

/** Measures that testers defined, each by its own command. */
function OwnMeasures({ draft, order, onChange }: Props & { order: readonly string[] }) {
  const own = useQuery(ownMeasuresQuery())
  return (
    <>
      {own.error && <Alert severity="error">{own.error.message}</Alert>}
      {(own.data ?? []).map((one) => (
        <Line key={one.key}>
          <FormControlLabel
            control={
              <Checkbox
                size="small"
                checked={draft.procedures.some((text) => measureOf(text) === one.key)}
                onChange={(event) =>
                  onChange({
                    procedures: withOwn(
                      draft.procedures,
                      one.key,
                      event.target.checked ? one.asked : '',
                      order,
                    ),
                  })
                }
              />
            }
            label={one.name}
          />
          <SoftSmall>
            {one.says || 'a measure of your own'}; command <code>{one.command}</code>
          </SoftSmall>
        </Line>
      ))}
    </>
  )
}

type NameProps = Pick<TextFieldProps, 'label' | 'placeholder' | 'helperText' | 'value' | 'autoFocus'> & {
  onName: (name: string) => void
}

/** An application by its name, in which a colon would part what a plan says of it. */
const ApplicationName = ({ onName, ...field }: NameProps) => (
  <TextField
    size="small"
    {...field}
    onChange={(event) => onName(event.target.value.replaceAll(':', ''))}
    slotProps={{ htmlInput: { maxLength: 100 } }}
  />
)

/** Applications that are given one more page or document until a rule ends it. */
function Ramps({ draft, onChange }: Props) {
  const ramps = rampsOf(draft.procedures)
  const say = (next: readonly Ramp[]) => {
    const rest = draft.procedures.filter((text) => !text.startsWith('ramp:'))
    onChange({ procedures: [...rest, ...next.map(rampText)] })
  }
  const put = (place: number, part: Partial<Ramp>) =>
    say(ramps.map((one, at) => (at === place ? { ...one, ...part } : one)))
  return (
    <>
      {ramps.map((ramp, place) => (
        <LaunchLine key={place}>
          <ApplicationName
            label="Application that is loaded"
            placeholder="Wayfarrow"
            value={ramp.app}
            autoFocus={!ramp.app}
            onName={(app) => put(place, { app })}
          />
          <TextField
            size="small"
            label="What it opens, in turns"
            placeholder="reading, gallery, clip, workshop"
            helperText="Empty: our pages. Or text, sheet, drawing, picture, app:NAME, an address of your own."
            sx={{ minWidth: 280 }}
            value={ramp.opens}
            onChange={(event) => put(place, { opens: event.target.value })}
            slotProps={{ htmlInput: { maxLength: 300 } }}
          />
          <LinkButton
            aria-label={`Take the ramp of ${ramp.app || 'nothing yet'} out`}
            onClick={() => say(ramps.filter((_, at) => at !== place))}
          >
            Take out
          </LinkButton>
        </LaunchLine>
      ))}
      <Button size="small" color="inherit" onClick={() => say([...ramps, { app: '', opens: '' }])}>
        Add a ramp
      </Button>
    </>
  )
}

type NamedProps = Props & { procedure: 'response' | 'frames'; label: string; placeholder: string }

/** Applications that one procedure is done with, by name. */
function Applications({ draft, onChange, procedure, label, placeholder }: NamedProps) {
  const apps = appsOf(draft.procedures, procedure)
  const say = (next: readonly string[]) => {
    const rest = draft.procedures.filter((text) => !text.startsWith(`${procedure}:`))
    onChange({ procedures: [...rest, ...next.map((app) => `${procedure}:${app}`)] })
  }
  return (
    <>
      {apps.map((app, place) => (
        <LaunchLine key={place}>
          <ApplicationName
            label={label}
            placeholder={placeholder}
            value={app}
            autoFocus={!app}
            onName={(name) => say(apps.map((one, at) => (at === place ? name : one)))}
          />
          <LinkButton
            aria-label={`Take the ${procedure} of ${app || 'nothing yet'} out`}
            onClick={() => say(apps.filter((_, at) => at !== place))}
          >
            Take out
          </LinkButton>
        </LaunchLine>
      ))}
      <Button size="small" color="inherit" onClick={() => say([...apps, ''])}>
        {procedure === 'response' ? 'Add an application' : 'Add a browser'}
      </Button>
    </>
  )
}

/** How the least memory is looked for. */
function Sizes({ text, draft, onChange }: Props & { text: string }) {
  const [, sizes = '', boots = '', app = '', pages = ''] = text.split(':')
  const say = (part: { sizes?: string; boots?: string; app?: string; pages?: string }) => {
    const now = { sizes, boots, app, pages, ...part }
    const told = ['least-memory', now.sizes, now.boots, now.app, now.app ? now.pages : ''].join(':')
    onChange({ procedures: draft.procedures.map((one) => (one === text ? told.replace(/:+$/, '') : one)) })
  }
  return (
    <LaunchLine>
      <TextField
        size="small"
        label="Sizes tried, MiB"
        placeholder="512, 768, 1024, 2048"
        helperText="Empty: what machines are sold with. 64-256/16 is every 16 from 64 to 256."
        value={sizes}
        onChange={(event) => say({ sizes: event.target.value.replace(/[^\d,\-/ ]/g, '') })}
      />
      <TextField
        size="small"
        label="Boots the answer stands"
        placeholder="3"
        type="number"
        helperText="All have to get ready; with 3 a system that fails in 6 of 10 can still pass."
        value={boots}
        onChange={(event) => say({ boots: event.target.value })}
        slotProps={{ htmlInput: { min: 1, max: 30 } }}
      />
      <ApplicationName
        label="And carries pages of"
        placeholder="nothing: being ready is enough"
        helperText="An application: then so many pages have to be carried too."
        value={app}
        onName={(name) => say({ app: name })}
      />
      {app && (
        <TextField
          size="small"
          label="Pages carried"
          placeholder="4"
          type="number"
          value={pages}
          onChange={(event) => say({ pages: event.target.value })}
          slotProps={{ htmlInput: { min: 1, max: 200 } }}
        />
      )}
    </LaunchLine>
  )
}
