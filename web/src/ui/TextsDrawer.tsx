import Button from '@mui/material/Button'
import Drawer from '@mui/material/Drawer'
import { styled } from '@mui/material/styles'
import type { ReactNode } from 'react'

import { KeyHint } from './KeyHint'
import { FactList, TitleBar } from './kit'

const Room = styled('div')({
  padding: '16px 20px',
  width: 'min(720px,96vw)',
  '& pre': {
    whiteSpace: 'pre-wrap',
    overflowWrap: 'anywhere',
    font: '12px/1.5 ui-monospace,monospace',
    backgroundColor: 'var(--hm-paper)',
    border: '1px solid var(--hm-rule)',
    padding: '8px 10px',
    maxHeight: 340,
    overflow: 'auto',
    margin: '6px 0 0',
  },
  '& img': { maxWidth: '100%' },
  '& details': { marginTop: 10 },
  '& summary': { cursor: 'pointer', fontWeight: 600 },
})

const PICTURE = '.png;base64'
const SHOWN = /^data:image\/(png|jpeg|webp);base64,/

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
      <Room>
        <TitleBar>
          <h2>{title}</h2>
          <Button size="small" variant="outlined" onClick={onClose}>
            Close
            <KeyHint name="Esc" />
          </Button>
        </TitleBar>
        <FactList>
          {facts.map(([name, value]) => (
            <div key={name}>
              <dt>{name}</dt>
              <dd>{value}</dd>
            </div>
          ))}
        </FactList>
        {children}
        {texts.map((item, index) => (
          <details key={item.name} open={index === 0}>
            <summary>{item.name}</summary>
            {SHOWN.test(item.text) ? (
              <img src={item.text} alt={item.name} />
            ) : item.name.endsWith(PICTURE) ? (
              <img src={`data:image/png;base64,${item.text}`} alt="The screen at that instant" />
            ) : (
              <pre tabIndex={0}>
                {item.text.length > 60000 ? `${item.text.slice(0, 60000)}\n…` : item.text}
              </pre>
            )}
          </details>
        ))}
      </Room>
    </Drawer>
  )
}
