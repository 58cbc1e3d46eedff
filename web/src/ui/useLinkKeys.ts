import type { RefObject } from 'react'

import { useShortcuts } from './shortcuts'

/** Arrow keys move the focus through a list's links. */
export function useLinkKeys(list: RefObject<HTMLElement | null>, next: string, before: string) {
  const move = (by: number) => {
    const links = [...(list.current?.querySelectorAll('a') ?? [])]
    const at = links.indexOf(document.activeElement as HTMLAnchorElement)
    links[at < 0 ? 0 : Math.max(0, Math.min(links.length - 1, at + by))]?.focus()
  }
  useShortcuts([
    { key: 'ArrowDown', shown: '↓', says: next, run: () => move(1) },
    { key: 'ArrowUp', shown: '↑', says: before, run: () => move(-1) },
  ])
}
