import { createContext, useContext, useEffect, useLayoutEffect, useRef } from 'react'

/** `run` is handed the press itself: its stamp is older than the moment at which it is heard. */
export type Shortcut = { key: string; says: string; run: (press: KeyboardEvent) => void; shown?: string }

export type ShortcutRegistry = {
  add: (shortcuts: () => readonly Shortcut[]) => () => void
  all: () => Shortcut[]
}

/** The newest page's keys come first; a dialog that is open keeps all keys to itself. */
export function makeShortcutRegistry(): ShortcutRegistry {
  const pages: (() => readonly Shortcut[])[] = []
  return {
    add(shortcuts) {
      pages.unshift(shortcuts)
      return () => void pages.splice(pages.indexOf(shortcuts), 1)
    },
    all: () => pages.flatMap((page) => [...page()]),
  }
}

export const ShortcutContext = createContext<ShortcutRegistry>(makeShortcutRegistry())

/** Offers keys while the calling component is on the page: from the moment it can be seen, not a paint later. */
export function useShortcuts(shortcuts: readonly Shortcut[]) {
  const book = useContext(ShortcutContext)
  const latest = useRef(shortcuts)
  useEffect(() => {
    latest.current = shortcuts
  })
  useLayoutEffect(() => book.add(() => latest.current), [book])
}

/**
 * Hands Escape to the dialog that is open where nothing has the focus: a button that has just been disabled, or that
 * went away with what it did, leaves it nowhere, and the press would be lost.
 */
export function handToDialog(event: KeyboardEvent): boolean {
  if (event.key !== 'Escape' || event.target !== document.body) return false
  const top = [...document.querySelectorAll('.MuiModal-root')].at(-1)
  top?.dispatchEvent(new KeyboardEvent('keydown', { key: 'Escape', bubbles: true, cancelable: true }))
  return top !== undefined
}

const TYPING = 'input, textarea, select, [contenteditable], [role=listbox], [role=menu]'

/** Whether a key press belongs to what has the focus rather than to the page. */
export function isTaken(event: KeyboardEvent): boolean {
  if (event.ctrlKey || event.metaKey || event.altKey || event.defaultPrevented) return true
  const target = event.target as HTMLElement
  if (target.closest(TYPING) || document.querySelector('[role=dialog]')) return true
  const isControl = target.closest('button, a, [tabindex], summary') !== null
  return isControl && (event.key === 'Enter' || event.key === ' ')
}
