import { queryOptions } from '@tanstack/react-query'

import { answerOf, client } from './client'
import { useChange } from './queries'
import type { Schemas } from './types'

export type OwnMeasure = Schemas['OwnMeasureOut']
export type GoodEnd = Schemas['GoodEnd']

/** Measures that testers defined, by name. */
export const ownMeasuresQuery = () =>
  queryOptions({
    queryKey: ['own-measures'],
    queryFn: () => answerOf(client.GET('/api/own-measures')),
  })

export const useDefineMeasure = () =>
  useChange((body: Schemas['OwnMeasureIn']) => answerOf(client.PUT('/api/own-measures', { body })))

/** Takes a measure out of the list, or brings it back; its readings always stay. */
export const useChangeMeasure = () =>
  useChange(({ key, isAway }: { key: string; isAway: boolean }) =>
    answerOf(
      client.PATCH('/api/own-measures/{key}', {
        params: { path: { key } },
        body: { is_put_away: isAway },
      }),
    ),
  )
