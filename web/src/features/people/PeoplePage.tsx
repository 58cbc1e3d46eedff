import { useQuery } from '@tanstack/react-query'
import { useEffect } from 'react'

import { sessionQuery } from '@/api/people'
import { Failed, Loading } from '@/ui/States'

import { Acts } from './Acts'
import { MeLine } from './MeLine'
import { PeopleList } from './PeopleList'
import { SessionList } from './SessionList'

/** Who may come in, which browsers are signed in, and what everybody did. */
export function PeoplePage() {
  const me = useQuery(sessionQuery())
  useEffect(() => {
    document.title = 'People · Hare Mile'
  }, [])
  return (
    <main>
      <div className="titlebar">
        <div>
          <h1>People</h1>
          <div className="soft">who may come in, which browsers are signed in, and what everybody did</div>
        </div>
        {me.data && <MeLine me={me.data} />}
      </div>
      {me.isPending && <Loading what="who you are" />}
      {me.error && <Failed error={me.error} onRetry={() => void me.refetch()} />}
      {me.data?.role === 'own' && (
        <div className="page stack">
          <PeopleList me={me.data.name} />
          <SessionList />
        </div>
      )}
      {me.data && <Acts />}
    </main>
  )
}
