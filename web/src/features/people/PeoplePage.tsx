import { useQuery } from '@tanstack/react-query'
import { useEffect } from 'react'

import { sessionQuery } from '@/api/people'
import { Main, Soft, Stack, TitleBar } from '@/ui/kit'
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
    <Main>
      <TitleBar>
        <div>
          <h1>People</h1>
          <Soft as="div">who may come in, which browsers are signed in, and what everybody did</Soft>
        </div>
        {me.data && <MeLine me={me.data} />}
      </TitleBar>
      {me.isPending && <Loading what="who you are" />}
      {me.error && <Failed error={me.error} onRetry={() => void me.refetch()} />}
      {me.data?.role === 'own' && (
        <Stack sx={{ mt: 1 }}>
          <PeopleList me={me.data.name} />
          <SessionList />
        </Stack>
      )}
      {me.data && <Acts />}
    </Main>
  )
}
