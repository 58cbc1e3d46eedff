import type { Schemas } from '@/api/types'

const MIB = 2 ** 20

export type Plan = Omit<Schemas['StudyCreate'], 'title' | 'seed'> & { title: string; seed: number | null }

/** What stands in the form of a plan; fields that are empty are left to what is usual. */
export function planOf(form: FormData, installs: readonly string[]): Plan {
  const number = (name: string) => Number(form.get(name)) || undefined
  const [seconds, mib] = [number('seconds'), number('mib')]
  return {
    title: String(form.get('title') ?? ''),
    installs: [...installs],
    blocks: number('blocks') ?? 10,
    seed: number('seed') ?? null,
    procedures: [
      ...form.getAll('procedure').map(String),
      ...String(form.get('launches') ?? '')
        .split(',')
        .map((name) => name.trim())
        .filter(Boolean)
        .map((name) => `launch:${name}`),
    ],
    interim_looks: String(form.get('looks') ?? '')
      .split(',')
      .map(Number)
      .filter((look) => look > 0),
    margins: {
      ...(seconds && { 'boot.total': { amount: seconds } }),
      ...(mib && { 'memory.used': { amount: mib * MIB } }),
    },
  }
}
