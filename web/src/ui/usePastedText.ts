import { useEffect, useRef } from 'react'

const FIELD = 'input, textarea, [contenteditable]'
const MOST = 2_000_000

/** Text pasted anywhere on the page but into a field is handed over. */
export function usePastedText(onText: (text: string) => void) {
  const latest = useRef(onText)
  useEffect(() => {
    latest.current = onText
  })
  useEffect(() => {
    const paste = (event: ClipboardEvent) => {
      if ((event.target as HTMLElement).closest?.(FIELD) || document.querySelector('[role=dialog]')) return
      const text = event.clipboardData?.getData('text') ?? ''
      if (!text.trim() || text.length > MOST) return
      event.preventDefault()
      latest.current(text)
    }
    window.addEventListener('paste', paste)
    return () => window.removeEventListener('paste', paste)
  }, [])
}

/** Whether a text is a readings file: its first line names the columns that one has to have. */
export function isReadingsFile(text: string): boolean {
  const names = (text.trimStart().split('\n')[0] ?? '').toLowerCase().split(/[,;\t]/)
  return ['system', 'metric', 'value'].every((one) => names.some((name) => name.trim() === one))
}

/** Whether a text is columns of a spreadsheet: every line has as many tabs, and one at least. */
export function isTable(text: string): boolean {
  const lines = text.trimEnd().split(/\r?\n/)
  const tabs = (lines[0] ?? '').split('\t').length - 1
  return tabs > 0 && lines.every((line) => line.split('\t').length - 1 === tabs)
}
