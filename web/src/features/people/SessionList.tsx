import { useQuery } from '@tanstack/react-query'

import { sessionsQuery, useRevokeSession } from '@/api/people'
import { moment } from '@/format/numbers'
import { Failed, Loading } from '@/ui/States'

import { browserName } from './words'

/** Browsers that are signed in; each can be signed out from here, which ends its open pages too. */
export function SessionList() {
  const sessions = useQuery(sessionsQuery())
  const revoke = useRevokeSession()
  return (
    <section className="sheet">
      <div className="paneltop">
        <h2>Signed-in browsers</h2>
      </div>
      {sessions.isPending && <Loading what="the sessions" />}
      {(sessions.error ?? revoke.error) && <Failed error={(sessions.error ?? revoke.error)!} />}
      <div className="scroll">
        <table className="rows">
          <thead>
            <tr>
              <th>Browser</th>
              <th>Person</th>
              <th>Last seen</th>
              <th className="wide">Ends</th>
              <th />
            </tr>
          </thead>
          <tbody>
            {sessions.data?.map((session) => (
              <tr key={session.id} className={session.is_this ? 'now' : undefined}>
                <td title={session.agent}>
                  {browserName(session.agent)}
                  {session.is_this && <b>, this one</b>}
                  {session.way === 'paired device' && <span className="soft">, paired</span>}
                </td>
                <td>{session.person}</td>
                <td>{moment(session.seen_at)}</td>
                <td className="wide">{moment(session.expires_at)}</td>
                <td className="r">
                  {!session.is_this && (
                    <button className="link" onClick={() => revoke.mutate(session.id)} aria-label={`Sign out ${browserName(session.agent)} of ${session.person}`}>
                      Sign out
                    </button>
                  )}
                </td>
              </tr>
            ))}
          </tbody>
        </table>
      </div>
    </section>
  )
}
