import { useEffect, useState } from 'react'

const holdsFiles = (event: DragEvent) => [...(event.dataTransfer?.types ?? [])].includes('Files')

/** Files dropped anywhere on the page are handed over; tells whether some are held over it. */
export function useFileDrop(onFiles: (files: readonly File[]) => void): boolean {
  const [isOver, setOver] = useState(false)
  useEffect(() => {
    const over = (event: DragEvent) => {
      if (!holdsFiles(event)) return
      event.preventDefault()
      setOver(true)
    }
    const leave = (event: DragEvent) => {
      if (event.relatedTarget === null) setOver(false)
    }
    const drop = (event: DragEvent) => {
      if (!holdsFiles(event)) return
      event.preventDefault()
      setOver(false)
      onFiles([...(event.dataTransfer?.files ?? [])])
    }
    window.addEventListener('dragover', over)
    window.addEventListener('dragleave', leave)
    window.addEventListener('drop', drop)
    return () => {
      window.removeEventListener('dragover', over)
      window.removeEventListener('dragleave', leave)
      window.removeEventListener('drop', drop)
    }
  }, [onFiles])
  return isOver
}

export const DropHint = () => (
  <div role="status" className="drophint">
    Let go to see what these files hold. Nothing is kept yet.
  </div>
)
