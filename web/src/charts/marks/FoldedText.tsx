import { folded } from '@/format/table'

type Props = { text: string; x: number; y: number; most: number; line?: number }

/** Text in as many lines as it takes, none longer than `most` letters. */
export const FoldedText = ({ text, x, y, most, line = 14 }: Props) => (
  <text fontSize="12" className="soft">
    {folded(text, most).map((part, i) => (
      <tspan key={part} x={x} y={y + i * line}>
        {part}
      </tspan>
    ))}
  </text>
)
