import { useLayoutEffect, useState, type ReactNode } from 'react'

import { later } from './later'
import { handToDialog, isTaken, makeShortcutRegistry, ShortcutContext, type Shortcut } from './shortcuts'

const KeysDialog = later(() => import('./KeysDialog').then((module) => module.KeysDialog), 'dialog')

/** Hears the keys, and shows all of them at `?`. */
export function ShortcutProvider({ children }: { children: ReactNode }) {
  const [book] = useState(makeShortcutRegistry)
  const [shown, setShown] = useState<Shortcut[] | null>(null)

  useLayoutEffect(() => {
    const onKey = (event: KeyboardEvent) => {
      if (handToDialog(event) || isTaken(event)) return
      if (event.key === '?') {
        setShown(book.all())
        return
      }
      const found = book.all().find((shortcut) => shortcut.key === event.key)
      if (found) {
        event.preventDefault()
        found.run(event)
      }
    }
    const onAsked = () => setShown(book.all())
    window.addEventListener('keydown', onKey)
    window.addEventListener('haremile-keys', onAsked)
    return () => {
      window.removeEventListener('keydown', onKey)
      window.removeEventListener('haremile-keys', onAsked)
    }
  }, [book])

  return (
    <ShortcutContext value={book}>
      {children}
      {shown && <KeysDialog shortcuts={shown} onClose={() => setShown(null)} />}
    </ShortcutContext>
  )
}
