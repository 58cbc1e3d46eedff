import Button from '@mui/material/Button'
import { useQuery } from '@tanstack/react-query'
import { useState } from 'react'
import { Link } from 'react-router'

import { auditQuery } from '@/api/people'
import { moment } from '@/format/numbers'
import { Empty, Failed, Loading } from '@/ui/States'

import { actFacts, actWords } from './words'

const PAGE = 200

/** What was done and by whom, the newest first. Nothing here can be changed. */
export function Acts() {
  const [before, setBefore] = useState<number | null>(null)
  const acts = useQuery(auditQuery(before))
  if (acts.isPending) return <Loading what="what was done" />
  if (acts.error) return <Failed error={acts.error} onRetry={() => void acts.refetch()} />
  if (!acts.data.length && before === null) {
    return (
      <Empty title="Nobody has changed anything yet.">
        <p>Who plans, sets aside, overrides or makes a key is written down here, with what stood there before.</p>
      </Empty>
    )
  }
  return (
    <section className="sheet page">
      <div className="paneltop">
        <h2>What was done</h2>
        <span className="soft">the newest first</span>
      </div>
      <div className="scroll">
        <table className="rows">
          <thead>
            <tr>
              <th>When</th>
              <th>Who</th>
              <th>What</th>
            </tr>
          </thead>
          <tbody>
            {acts.data.map((act) => (
              <tr key={act.id}>
                <td className="num nowrap">{moment(act.at)}</td>
                <td>
                  {act.who}
                  <div className="soft small">{act.way}</div>
                </td>
                <td>
                  {act.study_id ? <Link to={`/studies/${act.study_id}/run`}>{actWords(act.what)}</Link> : actWords(act.what)}
                  <div className="soft small">{actFacts(act.facts)}</div>
                </td>
              </tr>
            ))}
          </tbody>
        </table>
      </div>
      <div className="foot">
        {before !== null && (
          <Button size="small" color="inherit" onClick={() => setBefore(null)}>
            Newest
          </Button>
        )}
        {acts.data.length === PAGE && (
          <Button size="small" color="inherit" onClick={() => setBefore(acts.data.at(-1)!.id)}>
            Older
          </Button>
        )}
      </div>
    </section>
  )
}
