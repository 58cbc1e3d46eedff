import { useEffect, useRef } from 'react'
import { Link } from 'react-router'

import type { StudyDigest } from '@/api/types'
import { count, moment } from '@/format/numbers'
import { useLinkKeys } from '@/ui/useLinkKeys'

const STATES: Record<StudyDigest['state'], string> = {
  planned: 'planned', running: 'running now', paused: 'paused', done: 'all runs done',
}

export function StudyList({ studies }: { studies: StudyDigest[] }) {
  const list = useRef<HTMLUListElement>(null)
  useLinkKeys(list, 'Next study', 'Study before')
  useEffect(() => {
    list.current?.querySelector('a')?.focus({ preventScroll: true })
  }, [])
  return (
    <ul className="studies sheet" ref={list}>
      {studies.map((study) => (
        <li key={study.id}>
          <StudyLine study={study} />
        </li>
      ))}
    </ul>
  )
}

function StudyLine({ study }: { study: StudyDigest }) {
  const post = study.runs > 0 && study.finished === study.runs ? 'findings' : 'run'
  const share = study.runs ? (100 * study.finished) / study.runs : 0
  const failed = study.failed ? `, ${study.failed} failed` : ''
  return (
    <Link className="study" to={`/studies/${study.id}/${post}`}>
      <span className="q">{study.title}</span>
      <span className="who">
        {study.contenders.join(' · ')}
        <br />
        {study.machines.join(', ')} · {moment(study.created_at)}
      </span>
      <span className="where">
        {STATES[study.state]}: {study.finished} of {count(study.runs, 'run')}
        {failed}
        <span className="bar" style={{ display: 'block' }}>
          <i style={{ width: `${share}%` }} />
        </span>
      </span>
    </Link>
  )
}
