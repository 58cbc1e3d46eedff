import { useLayoutEffect, type RefObject } from 'react'

/** What an A4 page between its margins takes, CSS pixels. */
const PAGE = { width: 725, height: 1000 }
const LEAST = 0.4

/** How much smaller something has to be printed, so that one page takes it. */
export const fitOf = (width: number, height: number) =>
  Math.max(LEAST, Math.min(1, PAGE.width / width, PAGE.height / height))

/** Keeps that number on the element, for the looks in print. */
export function useFit(ref: RefObject<HTMLElement | null>) {
  useLayoutEffect(() => {
    const element = ref.current
    if (!element) return
    const fit = () => {
      if (window.matchMedia('print').matches) return // it is being printed by what was found before
      element.style.setProperty('--fit', fitOf(element.offsetWidth, element.offsetHeight).toFixed(3))
    }
    const observer = new ResizeObserver(fit)
    observer.observe(element)
    return () => observer.disconnect()
  }, [ref])
}
