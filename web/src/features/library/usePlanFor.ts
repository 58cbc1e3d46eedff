import { useMutation, useQueryClient } from '@tanstack/react-query'
import { useNavigate } from 'react-router'

import { answerOf, client } from '@/api/client'
import { metricsQuery, USUAL_REPEATS } from '@/api/plan'
import { proceduresQuery } from '@/api/queries'
import { refresh } from '@/api/refresh'

/** Begins a draft in which one system is measured by what gives a metric. */
export function usePlanFor(system: string) {
  const queries = useQueryClient()
  const navigate = useNavigate()
  const begin = useMutation({
    mutationFn: async ({ title, metric }: { title: string; metric: string }) => {
      const [metrics, procedures] = await Promise.all([
        queries.ensureQueryData(metricsQuery()),
        queries.ensureQueryData(proceduresQuery()),
      ])
      const able = metrics.find((one) => one.key === metric)?.procedures ?? []
      const procedure = procedures.find((one) => able.includes(one.key))?.key ?? 'boot'
      const made = await answerOf(client.POST('/api/studies/drafts', { body: { title } }))
      await answerOf(
        client.PUT('/api/studies/{study_id}/draft', {
          params: { path: { study_id: made.id } },
          body: { title, blocks: USUAL_REPEATS, systems: [system], procedures: [procedure] },
        }),
      )
      return made.id
    },
    onSuccess: (id) => void navigate(`/studies/${id}/plan`),
    onSettled: () => refresh(queries),
  })
  return { ...begin, start: (title: string, metric: string) => begin.mutate({ title, metric }) }
}
