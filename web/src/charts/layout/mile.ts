export type StudyPageName = 'Plan' | 'Run' | 'Findings'

export type Post = { name: StudyPageName; x: number; isReached: boolean; isHere: boolean }

export type Mile = { posts: Post[]; filledTo: number; cuts: number[] }

const EDGE = 4

/** The measured mile: posts at their places, filled to where the study stands; `share` is that of the runs that are
 * done, null before the start. */
export function mile(
  width: number,
  share: number | null,
  here: StudyPageName,
  names: readonly StudyPageName[],
): Mile {
  const end = width - EDGE
  const last = EDGE + (end - EDGE) * 0.86
  const gap = names.length > 1 ? (last - EDGE) / (names.length - 1) : 0
  const posts = names.map((name, i) => ({
    name,
    x: EDGE + gap * i,
    isReached: i === 0 || (share !== null && name !== 'Findings') || share === 1,
    isHere: name === here,
  }))
  const begin = posts.find((post) => post.name === 'Run')?.x ?? EDGE
  const filledTo = share === null ? EDGE : share >= 1 ? end : begin + (last - begin) * Math.max(0, share)
  const cuts = Array.from({ length: 29 }, (_, i) => EDGE + ((end - EDGE) / 30) * (i + 1))
  return { posts, filledTo, cuts }
}
