import Tooltip from '@mui/material/Tooltip'

type Props = {
  /** What it is, which gives its border. */
  kind: string
  word?: string
  /** What the word means, on hover and tap. */
  says?: string
}

/** A word in its own border: dash and dots tell what colour alone would not. */
export const Tag = ({ kind, word = kind, says = '' }: Props) => (
  <Tooltip title={says} describeChild enterTouchDelay={0}>
    <span className={`tag ${kind.split(' ')[0]}`}>{word}</span>
  </Tooltip>
)
