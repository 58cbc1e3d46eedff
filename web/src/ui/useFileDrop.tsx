import { styled } from '@mui/material/styles'
import { useEffect, useState } from 'react'

import { HEADING } from '@/theme/theme'

const Over = styled('div')({
  position: 'fixed',
  inset: 12,
  zIndex: 5,
  display: 'grid',
  placeItems: 'center',
  font: `650 20px/1.3 ${HEADING}`,
  backgroundColor: 'color-mix(in srgb,var(--hm-paper) 88%,transparent)',
  border: '2px dashed var(--hm-rust)',
  pointerEvents: 'none',
})

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
  <Over role="status">Let go to see what these files hold. Nothing is kept yet.</Over>
)
