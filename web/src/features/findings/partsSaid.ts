import type { BootParts } from '@/api/types'

type Said = { headline: string; says: string }

/** Which part tells two lanes apart the most, in a few words and in a sentence. */
export function partsSaid(found: BootParts, names: ReadonlyMap<number, string>): Said {
  const lengths = (metric: string) =>
    found.lanes.flatMap((lane) => {
      const part = lane.parts.find((one) => one.metric === metric)
      return part ? [{ laneNo: lane.lane_no, seconds: part.end - part.start }] : []
    })
  const spans = found.sources.map((source) => {
    const all = lengths(source.metric).sort((a, b) => a.seconds - b.seconds)
    return { source, least: all[0], most: all.at(-1) }
  })
  const widest = spans.sort((a, b) => reach(b) - reach(a))[0]
  if (!widest?.least || !widest.most || found.lanes.length < 2) {
    return { headline: 'One contender so far', says: 'One contender was booted in parts so far.' }
  }
  const part = lower(widest.source.label)
  return {
    headline: `It lies in ${part}: up to ${reach(widest).toFixed(1)} s apart`,
    says: `Most of the difference lies in ${part}: typically ${widest.least.seconds.toFixed(1)} s for ${names.get(widest.least.laneNo)}, ${widest.most.seconds.toFixed(1)} s for ${names.get(widest.most.laneNo)}.`,
  }
}

const lower = (label: string) => label.charAt(0).toLowerCase() + label.slice(1)

const reach = (span: { least?: { seconds: number }; most?: { seconds: number } }) =>
  (span.most?.seconds ?? 0) - (span.least?.seconds ?? 0)
