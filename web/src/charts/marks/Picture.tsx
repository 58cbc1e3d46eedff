import { styled } from '@mui/material/styles'
import type { SVGProps } from 'react'

const Ground = styled('svg')({
  display: 'block',
  width: '100%',
  overflow: 'visible',
  '& text': { fontFamily: "'Public Sans Variable',sans-serif", fill: 'var(--hm-ink)' },
  '& .soft': { fill: 'var(--hm-soft)' },
  '& .strong': { fontWeight: 650 },
})

/** The ground of every picture: its letters, soft and strong. */
export const Picture = (props: SVGProps<SVGSVGElement>) => <Ground className="picture" {...props} />

/** Pictures beside one another, each as wide as it is told, in pixels. */
export const Abreast = styled('div', { shouldForwardProp: (name) => name !== 'widths' })<{
  widths: readonly number[]
}>(({ widths }) => ({
  display: 'grid',
  gridTemplateColumns: widths.length > 1 ? widths.map((one) => `${one}px`).join(' ') : undefined,
}))

/** A line of words above a picture. */
export const Note = styled('p')({ margin: '0 16px 6px', color: 'var(--hm-soft)', fontSize: 13 })
