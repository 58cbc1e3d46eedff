export type StudyPageName = 'Plan' | 'Run' | 'Findings' | 'Report'

export type Post = { name: StudyPageName; x: number; isReached: boolean; isHere: boolean }

export type Mile = { posts: Post[]; filledTo: number; cuts: number[] }

const EDGE = 4

/** The measured mile: posts at their places, filled to where the study stands; `share` is that of the runs that are
 * done, null before the start. With its report out a study is at the end. */
export function mile(
  width: number,
  share: number | null,
  here: StudyPageName,
  names: readonly StudyPageName[],
  isPublished = false,
): Mile {
  const end = width - EDGE
  const last = EDGE + (end - EDGE) * 0.86
  const gap = names.length > 1 ? (last - EDGE) / (names.length - 1) : 0
  const posts = names.map((name, i) => ({
    name,
    x: EDGE + gap * i,
    isReached: i === 0 || (name === 'Run' ? share !== null : name === 'Report' ? isPublished : share === 1),
    isHere: name === here,
  }))
  const at = (name: StudyPageName) => posts.find((post) => post.name === name)?.x
  const begin = at('Run') ?? EDGE
  const told = at('Findings') ?? last
  const filledTo =
    share === null
      ? EDGE
      : isPublished || (share >= 1 && at('Report') === undefined)
        ? end
        : begin + (told - begin) * Math.max(0, Math.min(1, share))
  const cuts = Array.from({ length: 29 }, (_, i) => EDGE + ((end - EDGE) / 30) * (i + 1))
  return { posts, filledTo, cuts }
}
