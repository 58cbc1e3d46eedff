import { queryOptions } from '@tanstack/react-query'

import { answerOf, client } from './client'
import { useChange } from './queries'
import type { Schemas } from './types'

export const sessionQuery = () =>
  queryOptions({
    queryKey: ['session'],
    queryFn: () => answerOf(client.GET('/api/session')),
    retry: false,
  })

export const peopleQuery = () =>
  queryOptions({ queryKey: ['people'], queryFn: () => answerOf(client.GET('/api/people')) })

export const sessionsQuery = () =>
  queryOptions({
    queryKey: ['people', 'sessions'],
    queryFn: () => answerOf(client.GET('/api/people/sessions')),
  })

export const auditQuery = (before: number | null) =>
  queryOptions({
    queryKey: ['audit', before],
    queryFn: () => answerOf(client.GET('/api/audit', { params: { query: { before } } })),
  })

export const useAddPerson = () =>
  useChange((body: Schemas['PersonCreate']) => answerOf(client.POST('/api/people', { body })))

export const useRevokePerson = () =>
  useChange((name: string) =>
    answerOf(client.DELETE('/api/people/{name}/keys', { params: { path: { name } } })),
  )

export const useRevokeSession = () =>
  useChange((id: string) =>
    answerOf(client.DELETE('/api/people/sessions/{session_id}', { params: { path: { session_id: id } } })),
  )

export const usePairDevice = () => useChange(() => answerOf(client.POST('/api/people/devices')))

export const useSignOut = () => useChange(() => answerOf(client.DELETE('/api/session')))
