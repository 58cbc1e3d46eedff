import { styled } from '@mui/material/styles'
import { useNavigate } from 'react-router'

import { usePlanOf } from '@/api/plan'
import type { StandingsPage } from '@/api/standings'
import { KeyHint } from '@/ui/KeyHint'
import { LinkButton } from '@/ui/kit'
import { useShortcuts } from '@/ui/shortcuts'

const List = styled('div')({
  padding: '8px 16px',
  borderTop: '1px solid var(--hm-rule)',
  '& p': { margin: '2px 0' },
})

/** Systems that nothing links with the list, and the study that would. */
export function Apart({ page }: { page: StandingsPage }) {
  const plan = usePlanOf()
  const navigate = useNavigate()
  const start = (one: StandingsPage['apart'][number]) =>
    plan.mutate(
      {
        title: `${one.found.own} beside ${one.found.beside}`,
        systems: [one.own, one.beside].filter((id) => id !== null),
        machines: one.machine ? [one.machine] : [],
        procedures: [page.procedure],
      },
      { onSuccess: (id) => void navigate(`/studies/${id}/plan`) },
    )
  useShortcuts([
    { key: 'n', says: 'Plan what would place the first of them', run: () => start(page.apart[0]!) },
  ])
  return (
    <List role="group" aria-label="Not placed">
      {page.apart.map((one, i) => (
        <p key={one.sentence}>
          <b>Not placed:</b> {one.sentence}{' '}
          <LinkButton onClick={() => start(one)} disabled={plan.isPending}>
            Plan that
          </LinkButton>
          {i === 0 && <KeyHint name="N" />}
        </p>
      ))}
      {plan.error && <p role="alert">{plan.error.message}</p>}
    </List>
  )
}
