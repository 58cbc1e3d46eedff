import { useEffect, useState } from 'react'

/** The present in milliseconds, renewed every second while `isOn`. */
export function useNow(isOn: boolean): number {
  const [now, setNow] = useState(() => Date.now())
  useEffect(() => {
    if (!isOn) return
    const timer = setInterval(() => setNow(Date.now()), 1000)
    return () => clearInterval(timer)
  }, [isOn])
  return now
}
