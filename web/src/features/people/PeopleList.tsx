import Button from '@mui/material/Button'
import { useQuery } from '@tanstack/react-query'
import { useState } from 'react'

import { peopleQuery, usePairDevice } from '@/api/people'
import { moment } from '@/format/numbers'
import { KeyHint } from '@/ui/KeyHint'
import { useShortcuts } from '@/ui/shortcuts'
import { Failed, Loading } from '@/ui/States'

import { AddPersonDialog } from './AddPersonDialog'
import { RevokeDialog } from './RevokeDialog'
import { SecretDialog } from './SecretDialog'
import { ROLES } from './words'

/** Everyone with a key, and the ways to let somebody in. */
export function PeopleList({ me }: { me: string }) {
  const people = useQuery(peopleQuery())
  const pair = usePairDevice()
  const [isAdding, setAdding] = useState(false)
  const [revoking, setRevoking] = useState<string | null>(null)
  useShortcuts([
    { key: 'n', says: 'Make a key for a person', run: () => setAdding(true) },
    { key: 'd', says: 'Pair a device', run: () => pair.mutate() },
  ])
  const error = people.error ?? pair.error
  return (
    <section className="sheet">
      <div className="paneltop">
        <h2>Who may come in</h2>
        <div className="actions spread">
          <Button size="small" variant="outlined" color="inherit" onClick={() => pair.mutate()} disabled={pair.isPending}>
            Pair a device
            <KeyHint name="D" />
          </Button>
          <Button size="small" variant="contained" onClick={() => setAdding(true)}>
            Make a key
            <KeyHint name="N" />
          </Button>
        </div>
      </div>
      {people.isPending && <Loading what="the people" />}
      {error && <Failed error={error} />}
      <div className="scroll">
        <table className="rows">
          <thead>
            <tr>
              <th>Person</th>
              <th>Role</th>
              <th className="r">Keys that hold</th>
              <th className="wide">Since</th>
              <th />
            </tr>
          </thead>
          <tbody>
            {people.data?.map((person) => (
              <tr key={person.name}>
                <td>
                  <b>{person.name}</b>
                </td>
                <td>
                  {person.role} <span className="soft">{ROLES[person.role]}</span>
                </td>
                <td className="r">{person.keys}</td>
                <td className="wide">{moment(person.made_at)}</td>
                <td className="r">
                  <button className="link" onClick={() => setRevoking(person.name)} aria-label={`Revoke every key and session of ${person.name}`}>
                    Revoke
                  </button>
                </td>
              </tr>
            ))}
          </tbody>
        </table>
      </div>
      {revoking !== null && <RevokeDialog name={revoking} isMe={revoking === me} onClose={() => setRevoking(null)} />}
      {isAdding && <AddPersonDialog onClose={() => setAdding(false)} />}
      {pair.data && (
        <SecretDialog title="Pair a device" secret={pair.data.code} onClose={() => pair.reset()}>
          <p>
            Open this server’s address on the device and type the code there within {pair.data.minutes} minutes.
            It may then look, and do what belongs to a run at the machine: note a disturbance, skip, stop, plan again.
          </p>
          <p className="soft">
            Without encryption what the device sends can be overheard by others on the network; it says so itself.
          </p>
        </SecretDialog>
      )}
    </section>
  )
}
