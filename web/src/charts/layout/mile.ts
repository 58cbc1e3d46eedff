export type StudyPageName = 'Run' | 'Findings'

export type Post = { name: StudyPageName; x: number; isReached: boolean; isHere: boolean }

export type Mile = { posts: Post[]; filledTo: number; cuts: number[] }

const EDGE = 4

/** The measured mile: posts at their places, filled to where the study stands. */
export function mile(
  width: number,
  share: number,
  here: StudyPageName,
  names: readonly StudyPageName[],
): Mile {
  const end = width - EDGE
  const last = EDGE + (end - EDGE) * 0.86
  const gap = names.length > 1 ? (last - EDGE) / (names.length - 1) : 0
  const posts = names.map((name, i) => ({
    name,
    x: EDGE + gap * i,
    isReached: i === 0 || share >= 1,
    isHere: name === here,
  }))
  const filledTo = share >= 1 ? end : EDGE + (last - EDGE) * Math.max(0, share)
  const cuts = Array.from({ length: 29 }, (_, i) => EDGE + ((end - EDGE) / 30) * (i + 1))
  return { posts, filledTo, cuts }
}
