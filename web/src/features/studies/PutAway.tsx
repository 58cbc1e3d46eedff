import { useQuery } from '@tanstack/react-query'
import { useState } from 'react'

import { putAwayQuery } from '@/api/corrections'
import { count } from '@/format/numbers'
import { LinkButton, Soft } from '@/ui/kit'

import { StudyList } from './StudyList'

/** Studies that were put away: only how many, until they are asked for. */
export function PutAway() {
  const found = useQuery(putAwayQuery())
  const [isOpen, setOpen] = useState(false)
  if (!found.data?.length) return null
  return (
    <section>
      <Soft as="p">
        <LinkButton aria-expanded={isOpen} onClick={() => setOpen(!isOpen)}>
          {isOpen ? 'Hide' : 'Show'} {count(found.data.length, 'study', 'studies')} put away
        </LinkButton>
      </Soft>
      {isOpen && <StudyList studies={found.data} />}
    </section>
  )
}
