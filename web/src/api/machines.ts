import { queryOptions } from '@tanstack/react-query'

import { answerOf, client } from './client'
import { useChange } from './queries'
import type { Noun } from './things'
import type { Schemas } from './types'

const LOOK_MS = 2000

export const installsOfQuery = (noun: Noun, key: string) =>
  queryOptions({
    queryKey: ['library', noun, 'one', key, 'installs'],
    queryFn: () => {
      const of = { params: { path: { key } } }
      return answerOf(
        noun === 'systems'
          ? client.GET('/api/systems/{key}/installs', of)
          : client.GET('/api/machines/{key}/installs', of),
      )
    },
  })

export const useChangeInstall = () =>
  useChange(({ id, body }: { id: string; body: Schemas['InstallChange'] }) =>
    answerOf(client.PATCH('/api/installs/{key}', { params: { path: { key: id } }, body })),
  )

/** The last sign of every enrolled machine, asked for again while somebody waits for one. */
export const signsQuery = (isAwaited: boolean) =>
  queryOptions({
    queryKey: ['rigs', 'machines'],
    queryFn: () => answerOf(client.GET('/api/rigs/machines')),
    refetchInterval: isAwaited ? LOOK_MS : false,
  })

export const keysQuery = (name: string) =>
  queryOptions({
    queryKey: ['machine keys', name],
    queryFn: () => answerOf(client.GET('/api/machines/{name}/keys', { params: { path: { name } } })),
    retry: false,
  })

export const useMakeKey = (name: string) =>
  useChange(() => answerOf(client.POST('/api/machines/{name}/keys', { params: { path: { name } } })))

export const useRevokeKeys = (name: string) =>
  useChange(() => answerOf(client.DELETE('/api/machines/{name}/keys', { params: { path: { name } } })))

export const useStateSwitching = () =>
  useChange(({ id, body }: { id: string; body: Schemas['SwitchingIn'] }) =>
    answerOf(client.PUT('/api/installs/{key}/switching', { params: { path: { key: id } }, body })),
  )
