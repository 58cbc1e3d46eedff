import { queryOptions } from '@tanstack/react-query'

import { answerOf, client } from './client'
import { useChange } from './queries'
import type { Schemas } from './types'

/** The two kinds of things that the library holds. */
export type Noun = 'systems' | 'machines'

export type Thing = Schemas['ThingOut']
export type LibraryPage = Schemas['LibraryPageOut']
export type FactLine = LibraryPage['lines'][number]
export type ClaimLine = LibraryPage['claims'][number]

const ofThing = (key: string) => ({ params: { path: { key } } })

export const thingsQuery = (noun: Noun, putAway = false) =>
  queryOptions({
    queryKey: ['library', noun, putAway],
    queryFn: () =>
      answerOf(
        noun === 'systems'
          ? client.GET('/api/systems', { params: { query: { put_away: putAway } } })
          : client.GET('/api/machines', { params: { query: { put_away: putAway } } }),
      ),
  })

export const thingQuery = (noun: Noun, key: string) =>
  queryOptions({
    queryKey: ['library', noun, 'one', key],
    queryFn: () =>
      answerOf(
        noun === 'systems'
          ? client.GET('/api/systems/{key}', ofThing(key))
          : client.GET('/api/machines/{key}', ofThing(key)),
      ),
  })

/** The main measures of one, study after study. */
export const overTimeQuery = (noun: Noun, key: string) =>
  queryOptions({
    queryKey: ['library', noun, 'one', key, 'over time'],
    queryFn: () =>
      answerOf(
        noun === 'systems'
          ? client.GET('/api/systems/{key}/over-time', ofThing(key))
          : client.GET('/api/machines/{key}/over-time', ofThing(key)),
      ),
  })

export const wordsQuery = () =>
  queryOptions({
    queryKey: ['library', 'words'],
    queryFn: () => answerOf(client.GET('/api/library/words')),
    staleTime: Infinity,
  })

export const useAddThing = (noun: Noun) =>
  useChange((name: string) =>
    answerOf(
      noun === 'systems'
        ? client.POST('/api/systems', { body: { name } })
        : client.POST('/api/machines', { body: { name } }),
    ),
  )

export const useChangeThing = (noun: Noun, key: string) =>
  useChange((body: Schemas['SystemChange'] & Schemas['MachineChange']) =>
    answerOf(
      noun === 'systems'
        ? client.PATCH('/api/systems/{key}', { ...ofThing(key), body })
        : client.PATCH('/api/machines/{key}', { ...ofThing(key), body }),
    ),
  )

export const useStateFact = (noun: Noun, key: string) =>
  useChange(({ fact, body }: { fact: string; body: Schemas['FactIn'] }) =>
    answerOf(
      noun === 'systems'
        ? client.PUT('/api/systems/{key}/facts/{fact}', { params: { path: { key, fact } }, body })
        : client.PUT('/api/machines/{key}/facts/{fact}', { params: { path: { key, fact } }, body }),
    ),
  )

/** States what an about capture tells of one. */
export const useFill = (noun: Noun, key: string) =>
  useChange((text: string) => {
    const asked = {
      ...ofThing(key),
      body: text as never,
      bodySerializer: () => text,
      headers: { 'Content-Type': 'text/plain' },
    }
    return answerOf(
      noun === 'systems'
        ? client.POST('/api/systems/{key}/about', asked)
        : client.POST('/api/machines/{key}/about', asked),
    )
  })

export const useAddClaim = (key: string) =>
  useChange((body: Schemas['ClaimIn']) =>
    answerOf(client.POST('/api/systems/{key}/claims', { ...ofThing(key), body })),
  )

export const useChangeClaim = (key: string) =>
  useChange(({ claim, isPutAway }: { claim: string; isPutAway: boolean }) =>
    answerOf(
      client.PATCH('/api/systems/{key}/claims/{claim}', {
        params: { path: { key, claim } },
        body: { is_put_away: isPutAway },
      }),
    ),
  )
