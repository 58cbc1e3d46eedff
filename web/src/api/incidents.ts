import { queryOptions } from '@tanstack/react-query'

import { answerOf, client } from './client'
import { useChange } from './queries'
import type { Schemas } from './types'

export type IncidentsPage = Schemas['IncidentsPage']
export type IncidentLine = Schemas['IncidentLine']
export type IncidentKind = Schemas['IncidentKind']

/** Incidents per 100 hours in use, system by system. */
export const incidentsQuery = () =>
  queryOptions({ queryKey: ['incidents'], queryFn: () => answerOf(client.GET('/api/incidents')) })

export const useNoteIncident = () =>
  useChange((body: Schemas['IncidentIn']) => answerOf(client.POST('/api/incidents', { body })))

export const useNoteHours = () =>
  useChange((body: Schemas['HoursIn']) => answerOf(client.POST('/api/incidents/hours', { body })))

/** Takes an incident or hours out of the count, or brings them back. */
export const useChangeNoted = () =>
  useChange(({ id, isAway }: { id: string; isAway: boolean }) =>
    answerOf(
      client.PATCH('/api/incidents/{noted_id}', {
        params: { path: { noted_id: id } },
        body: { is_put_away: isAway },
      }),
    ),
  )
