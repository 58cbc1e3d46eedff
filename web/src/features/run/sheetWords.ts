import type { Install, Run, RunSheet } from '@/api/types'
import { ownName } from '@/format/ownName'

const SWITCHING: Record<string, string> = {
  'next-entry': 'boots itself next',
  'disk-swap': 'a person swaps the disk',
  reinstall: 'a person installs it',
  none: 'restarts by itself',
}

/** What operates the machine, or whom it waits for. */
export function howItIsRun(install: Pick<Install, 'rig' | 'recipe'>): string {
  switch (install.rig) {
    case 'guest':
      return install.recipe.keep === 'yes' ? 'its own disk, changes stay' : 'a fresh virtual machine'
    case 'enrolled':
      return SWITCHING[install.recipe.switching ?? 'none'] ?? ''
    case 'simulated':
      return 'simulated'
    case 'person':
      return 'a person measures it'
    case 'here':
      return 'measured on this computer'
    default:
      return 'its readings are brought in'
  }
}

/** What is known of a run's conditions beforehand: what the plan states, and the medium that the lane's runs met. */
export function conditionOf(run: Run, sheet: RunSheet): string {
  const medium = sheet.lanes.find((lane) => lane.lane_no === run.lane_no)?.observed_conditions.medium
  const { app, start, measure } = run.conditions
  return [medium, ownName(measure), app, start].filter(Boolean).join(', ') || 'as found'
}

/** How the reason of a failed run begins that was set aside. */
export const ASIDE = 'set aside: '
