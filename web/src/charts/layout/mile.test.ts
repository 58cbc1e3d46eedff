import { describe, expect, it } from 'vitest'

import { mile, type StudyPageName } from './mile'

const POSTS: StudyPageName[] = ['Plan', 'Run', 'Findings', 'Report']
const reached = (share: number | null, isPublished = false) =>
  mile(800, share, 'Run', POSTS, isPublished)
    .posts.filter((post) => post.isReached)
    .map((post) => post.name)

describe('the measured mile', () => {
  it('reaches its posts as the study goes on', () => {
    expect(reached(null)).toEqual(['Plan'])
    expect(reached(0)).toEqual(['Plan', 'Run'])
    expect(reached(1)).toEqual(['Plan', 'Run', 'Findings'])
    expect(reached(1, true)).toEqual(POSTS)
  })
  it('is filled as far as its runs are done', () => {
    const at = (share: number | null) => mile(800, share, 'Run', POSTS).filledTo
    const { posts } = mile(800, 0.5, 'Run', POSTS)
    const [, run, findings] = posts.map((post) => post.x)
    expect(at(0)).toBe(run)
    expect(at(0.5)).toBeCloseTo((run! + findings!) / 2)
    expect(at(1)).toBe(findings)
    expect(at(null)).toBeLessThan(run!)
    expect(at(7), 'never beyond').toBe(findings)
  })
  it('is full with the report out, or where there is no report', () => {
    expect(mile(800, 1, 'Report', POSTS, true).filledTo).toBe(796)
    expect(mile(800, 1, 'Run', POSTS.slice(0, 3)).filledTo).toBe(796)
  })
  it('marks where the reader is, and keeps its posts in order and inside', () => {
    const { posts, cuts } = mile(300, 1, 'Findings', POSTS)
    expect(posts.filter((post) => post.isHere).map((post) => post.name)).toEqual(['Findings'])
    expect(posts.map((post) => post.x)).toEqual([...posts.map((post) => post.x)].sort((a, b) => a - b))
    expect(Math.max(...cuts, ...posts.map((post) => post.x))).toBeLessThan(300)
  })
})
