import { useEffect, useState } from 'react'

const PREFIX = 'haremile.timing.'

export function readKept<T>(name: string, initial: T): T {
  try {
    const text = localStorage.getItem(PREFIX + name)
    return text === null ? initial : (JSON.parse(text) as T)
  } catch {
    return initial // what is there is none of ours, or the browser keeps nothing
  }
}

/** Keeps a value in the browser; false where it could not be kept. */
export function keep(name: string, value: unknown): boolean {
  try {
    localStorage.setItem(PREFIX + name, JSON.stringify(value))
    return true
  } catch {
    return false
  }
}

/** A value that outlives the page, in this browser; and whether the browser keeps anything. */
export function useKept<T>(name: string, initial: T) {
  const [value, setValue] = useState<T>(() => readKept(name, initial))
  const [isKept] = useState(() => keep('try', 1))
  useEffect(() => void keep(name, value), [name, value])
  return [value, setValue, isKept] as const
}
