import { useEffect } from 'react'

/** Keeps the screen awake while a race runs, where the browser lets a page do that. */
export function useAwake(isOn: boolean) {
  useEffect(() => {
    if (!isOn || !('wakeLock' in navigator)) return
    let lock: WakeLockSentinel | null = null
    let isOver = false
    const ask = () => {
      if (document.visibilityState !== 'visible') return
      navigator.wakeLock.request('screen').then(
        (found) => {
          if (isOver) void found.release()
          else lock = found
        },
        () => undefined, // refused, as on a low battery: the page says nothing new by that
      )
    }
    ask()
    document.addEventListener('visibilitychange', ask)
    return () => {
      isOver = true
      document.removeEventListener('visibilitychange', ask)
      void lock?.release()
    }
  }, [isOn])
}
