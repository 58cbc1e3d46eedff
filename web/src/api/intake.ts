import { useQuery } from '@tanstack/react-query'

import { answerOf, client } from './client'

const EVERY_MS = 400

/** A name under which the server tells how far an intake is. */
export function intakeName(): string {
  const bytes = [...crypto.getRandomValues(new Uint8Array(16))]
    .map((byte) => byte.toString(16).padStart(2, '0'))
    .join('')
  return [
    bytes.slice(0, 8),
    bytes.slice(8, 12),
    bytes.slice(12, 16),
    bytes.slice(16, 20),
    bytes.slice(20),
  ].join('-')
}

/** How far the intake of this name is, asked again and again while it goes on. */
export function useIntakeStage(name: string | null) {
  const stage = useQuery({
    queryKey: ['intake', name],
    queryFn: () => answerOf(client.GET('/api/intakes/{name}', { params: { path: { name: name ?? '' } } })),
    enabled: name !== null,
    refetchInterval: EVERY_MS,
    gcTime: 0,
  })
  return name === null ? null : (stage.data ?? null)
}
