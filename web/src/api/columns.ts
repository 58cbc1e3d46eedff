import { queryOptions, useMutation } from '@tanstack/react-query'
import { useState } from 'react'

import { answerOf, client } from './client'
import type { Schemas } from './types'
import { formOf } from './queries'

/** As much of a file as is looked at for its columns. */
const HEAD_BYTES = 80_000

export type FileColumns = Schemas['FileColumns']
export type ColumnMap = FileColumns['meaning']

/** What a column of a table can mean. */
export const choicesQuery = () =>
  queryOptions({
    queryKey: ['intake', 'choices'],
    queryFn: () => answerOf(client.GET('/api/intake/choices')),
    staleTime: Infinity,
  })

/** The first table among some files whose columns are none of ours, and what they are said to mean. */
export function useColumnMap() {
  const asked = useMutation({
    mutationFn: (files: readonly File[]) =>
      answerOf(
        client.POST('/api/intake/columns', {
          body: { files: [] },
          bodySerializer: () => formOf(files.map((file) => new File([file.slice(0, HEAD_BYTES)], file.name))),
        }),
      ),
  })
  const [meaning, setMeaning] = useState<ColumnMap | null>(null)
  const look = (files: readonly File[], then: (found: FileColumns | undefined) => void) => {
    setMeaning(null)
    asked.mutate(files, {
      onSuccess: ([first]) => {
        setMeaning(first?.meaning ?? null)
        then(first)
      },
    })
  }
  return { file: asked.data?.[0], error: asked.error, isLooking: asked.isPending, meaning, setMeaning, look }
}
