import Button from '@mui/material/Button'
import Drawer from '@mui/material/Drawer'
import type { ReactNode } from 'react'

import { KeyHint } from './KeyHint'

const PICTURE = '.png;base64'

export type NamedText = { name: string; text: string }

type Props = {
  title: string
  facts: readonly (readonly [string, string])[]
  texts: readonly NamedText[]
  onClose: () => void
  children?: ReactNode
}

/** Texts kept as they were met, beside the page. */
export function TextsDrawer({ title, facts, texts, onClose, children }: Props) {
  return (
    <Drawer
      anchor="right"
      open
      onClose={onClose}
      slotProps={{ paper: { 'aria-label': title, role: 'dialog' } }}
    >
      <div className="evidence">
        <div className="titlebar">
          <h2>{title}</h2>
          <Button size="small" variant="outlined" onClick={onClose}>
            Close
            <KeyHint name="Esc" />
          </Button>
        </div>
        <dl className="facts">
          {facts.map(([name, value]) => (
            <div key={name} style={{ display: 'contents' }}>
              <dt>{name}</dt>
              <dd>{value}</dd>
            </div>
          ))}
        </dl>
        {children}
        {texts.map((item, index) => (
          <details key={item.name} open={index === 0}>
            <summary>{item.name}</summary>
            {item.name.endsWith(PICTURE) ? (
              <img src={`data:image/png;base64,${item.text}`} alt="The screen at that instant" style={{ maxWidth: '100%' }} />
            ) : (
            <pre tabIndex={0}>{item.text.length > 60000 ? `${item.text.slice(0, 60000)}\n…` : item.text}</pre>
            )}
          </details>
        ))}
      </div>
    </Drawer>
  )
}
