import { queryOptions } from '@tanstack/react-query'

import { answerOf, client } from './client'
import { useChange } from './queries'
import type { Schemas } from './types'

export type PackageTaken = Schemas['PackageTakenOut']
export type PackageAsked = { file: File; renamed: readonly string[]; isTheirs: boolean }

function formOf({ file, renamed, isTheirs }: PackageAsked): FormData {
  const form = new FormData()
  form.append('file', file)
  for (const id of renamed) form.append('renamed', id)
  form.append('is_theirs', String(isTheirs))
  return form
}

const body = { file: '', is_theirs: false }

/** What a package would bring; nothing is kept. */
export const lookIntoPackage = (asked: PackageAsked) =>
  answerOf(client.POST('/api/packages/preview', { body, bodySerializer: () => formOf(asked) }))

export const useTakePackage = () =>
  useChange((asked: PackageAsked) =>
    answerOf(client.POST('/api/packages', { body, bodySerializer: () => formOf(asked) })),
  )

/** Commands of installs from elsewhere that nobody approved yet. */
export const commandsQuery = () =>
  queryOptions({
    queryKey: ['packages', 'commands'],
    queryFn: () => answerOf(client.GET('/api/packages/commands')),
  })

export const useApproveCommands = () =>
  useChange(({ install, isApproved }: { install: string; isApproved: boolean }) =>
    answerOf(
      client.POST('/api/packages/commands/{install_id}', {
        params: { path: { install_id: install } },
        body: { is_approved: isApproved },
      }),
    ),
  )

/** Where a package is made: of one study, or of the whole bench book. */
export const packageAddress = (study?: string) => `/api/packages/export${study ? `?study=${study}` : ''}`
