import { styled } from '@mui/material/styles'
import { startTransition, useEffect, useRef, useState } from 'react'
import { Link } from 'react-router'

import { addressOf, titleOf } from '@/api/studyPage'
import type { StudyDigest } from '@/api/types'
import { count, moment } from '@/format/numbers'
import { HEADING } from '@/theme/theme'
import { Sheet } from '@/ui/kit'
import { Share } from '@/ui/Share'
import { useLinkKeys } from '@/ui/useLinkKeys'

const Studies = styled(Sheet)({
  listStyle: 'none',
  margin: '14px 0 0',
  padding: 0,
  '& .study': {
    display: 'grid',
    gridTemplateColumns: 'minmax(0,1fr) auto',
    gap: '2px 20px',
    padding: '12px 16px',
    textDecoration: 'none',
    borderBottom: '1px solid var(--hm-rule)',
    '&:hover': { backgroundColor: 'var(--hm-chosen)' },
  },
  '& li:last-child .study': { borderBottom: 0 },
  '& .q': { font: `650 17px/1.25 ${HEADING}` },
  '& .says': { gridColumn: 1, '& b': { fontSize: 15 }, '& span': { color: 'var(--hm-soft)', fontSize: 13 } },
  '& .who': { color: 'var(--hm-soft)', fontSize: 13, gridColumn: 1 },
  '& .where': {
    gridRow: '1/4',
    gridColumn: 2,
    alignSelf: 'center',
    textAlign: 'right',
    fontSize: 13,
    color: 'var(--hm-soft)',
    width: 240,
  },
  '@media screen and (max-width:600px)': {
    '& .study': { gridTemplateColumns: 'minmax(0,1fr)' },
    '& .where': { gridRow: 'auto', gridColumn: 1, textAlign: 'left' },
  },
})

const STATES: Record<StudyDigest['state'], string> = {
  draft: 'draft',
  planned: 'planned',
  running: 'running now',
  paused: 'paused',
  done: 'all runs done',
}

const FIRST_SHOWN = 25

export function StudyList({ studies }: { studies: StudyDigest[] }) {
  const list = useRef<HTMLDivElement>(null)
  useLinkKeys(list, 'Next study', 'Study before')
  const [most, setMost] = useState(FIRST_SHOWN)
  useEffect(() => {
    // what is below the edge is drawn once the first rows stand
    const timer = setTimeout(() => startTransition(() => setMost(Infinity)))
    return () => clearTimeout(timer)
  }, [])
  useEffect(() => {
    list.current?.querySelector('a')?.focus({ preventScroll: true })
  }, [])
  return (
    <Studies as="ul" ref={list}>
      {studies.slice(0, most).map((study) => (
        <li key={study.id}>
          <StudyLine study={study} />
        </li>
      ))}
    </Studies>
  )
}

function StudyLine({ study }: { study: StudyDigest }) {
  const isDraft = study.state === 'draft'
  const share = study.runs ? study.finished / study.runs : 0
  const failed = study.failed ? `, ${study.failed} failed` : ''
  return (
    <Link className="study" to={addressOf(study)}>
      <span className="q">{titleOf(study)}</span>
      <AnswerOf study={study} />
      <span className="who">
        {shortened(study.contenders)}
        <br />
        {[study.machines.join(', '), moment(study.created_at), study.tags.map((tag) => `#${tag}`).join(' ')]
          .filter(Boolean)
          .join(' · ')}
      </span>
      <span className="where">
        {isDraft ? (
          'draft: not started'
        ) : (
          <>
            {STATES[study.state]}: {study.finished} of {count(study.runs, 'run')}
            {failed}
            <Share of={share} says="Runs that are done" />
          </>
        )}
      </span>
    </Link>
  )
}

const SHOWN = 5

const shortened = (names: readonly string[]) =>
  names.length > SHOWN
    ? `${names.slice(0, SHOWN).join(' · ')} and ${names.length - SHOWN} more`
    : names.join(' · ')

/** What the study answers, as far as it was calculated; why there is none yet. */
function AnswerOf({ study }: { study: StudyDigest }) {
  if (study.state === 'draft') return <span className="says">to be planned</span>
  if (!study.finished) return <span className="says">{study.can_run ? 'not begun' : 'no reading yet'}</span>
  if (!study.answer) return <span className="says">being calculated …</span>
  const rest = [study.answer.about, study.is_current ? '' : 'being calculated anew'].filter(Boolean)
  return (
    <span className="says">
      <b>{study.answer.headline}</b> <span>{rest.join('; ')}</span>
    </span>
  )
}
