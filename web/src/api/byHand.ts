import { queryOptions } from '@tanstack/react-query'

import { answerOf, client } from './client'
import { useChange } from './queries'
import type { Schemas } from './types'

export type MarkKind = Schemas['MarkKindOut']
export type Marks = Schemas['MarksOut']
export type Waiting = Schemas['WaitingOut']
export type HandIn = Schemas['HandIn']
export type Results = Schemas['ResultsIn']
export type Drill = Schemas['DrillOut']
export type Written = Schemas['WrittenIn']

/** Moments that can be marked; they never change while the page is open. */
export const marksQuery = () =>
  queryOptions({
    queryKey: ['by-hand', 'marks'],
    queryFn: () => answerOf(client.GET('/api/by-hand/marks')),
    staleTime: Infinity,
  })

/** What waits for a person now, asked for again while the page is open. */
export const waitingQuery = (study?: string) =>
  queryOptions({
    queryKey: ['by-hand', 'waiting', study ?? ''],
    queryFn: () =>
      answerOf(client.GET('/api/by-hand/waiting', { params: { query: study ? { study } : {} } })),
    refetchInterval: 2000,
    retry: false,
  })

export const drillQuery = (person: string) =>
  queryOptions({
    queryKey: ['by-hand', 'drill', person],
    queryFn: () => answerOf(client.GET('/api/by-hand/drills/newest', { params: { query: { person } } })),
    enabled: person !== '',
    retry: false,
  })

export const useKeepDrill = () =>
  useChange((body: Schemas['DrillIn']) => answerOf(client.POST('/api/by-hand/drills', { body })))

export const handIn = (body: Results) => answerOf(client.POST('/api/by-hand/results', { body }))

export const useHandIn = () => useChange(handIn)

/** What figures are understood as. */
export const amountsQuery = (figures: Written[]) =>
  queryOptions({
    queryKey: ['by-hand', 'amounts', figures],
    queryFn: () => answerOf(client.POST('/api/by-hand/amounts', { body: { figures } })),
    enabled: figures.length > 0,
    staleTime: Infinity,
  })

export const usePutByHand = () =>
  useChange((body: Schemas['PlaceIn']) => answerOf(client.POST('/api/by-hand/installs', { body })))

export type Pasted = Schemas['PastedOut']
export type Piece = Schemas['PieceOut']

/** What a terminal's output holds; nothing is kept. */
export const pastedQuery = (text: string) =>
  queryOptions({
    queryKey: ['by-hand', 'paste', text],
    queryFn: () => answerOf(client.POST('/api/by-hand/paste', { body: { text } })),
    enabled: text !== '',
    staleTime: Infinity,
  })

type Needed = 'id' | 'system' | 'machine' | 'at' | 'person' | 'method'

/** A result with nothing in it but what is given. */
export const resultOf = (given: Pick<HandIn, Needed> & Partial<HandIn>): HandIn => ({
  run: null,
  attempt: null,
  procedure: 'boot',
  marks: [],
  frame_s: null,
  written: [],
  figures: [],
  photographs: [],
  pasted: '',
  outcome: 'done',
  reason: '',
  note: '',
  conditions: {},
  drill: null,
  ...given,
})
