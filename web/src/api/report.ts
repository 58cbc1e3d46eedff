import { queryOptions } from '@tanstack/react-query'

import { answerOf, client } from './client'
import { keys, useChange } from './queries'
import type { Schemas } from './types'

export type Report = Schemas['ReportOut']
export type ReportIn = Schemas['ReportIn']
export type ReportPart = Schemas['OfferedPart']
export type ReportSection = Schemas['SectionOut']
export type ReportVersion = Schemas['VersionOut']

const path = (id: string) => ({ params: { path: { study_id: id } } })

/** A study's report while it is written, with everything that it would hold now. */
export const reportQuery = (id: string) =>
  queryOptions({
    queryKey: keys.part(id, 'report'),
    queryFn: () => answerOf(client.GET('/api/studies/{study_id}/report', path(id))),
  })

export const useWriteReport = (id: string) =>
  useChange((body: ReportIn) => answerOf(client.PUT('/api/studies/{study_id}/report', { ...path(id), body })))

export const useBeginReportAgain = (id: string) =>
  useChange(() => answerOf(client.DELETE('/api/studies/{study_id}/report', path(id))))

export const usePublishReport = (id: string) =>
  useChange(() => answerOf(client.POST('/api/studies/{study_id}/report/versions', path(id))))

/** Where a file of a version stands. */
export const versionFile = (id: string, version: number, file: 'page' | 'pdf' | 'readings.csv') =>
  `/api/studies/${id}/report/versions/${version}/${file}`
