type Props = { text: string; x: number; y: number; most: number; line?: number }

/** Text in as many lines as it takes, none longer than `most` letters. */
export function FoldedText({ text, x, y, most, line = 14 }: Props) {
  return (
    <text fontSize="12" className="soft">
      {folded(text, most).map((part, i) => (
        <tspan key={part} x={x} y={y + i * line}>
          {part}
        </tspan>
      ))}
    </text>
  )
}

function folded(text: string, most: number): string[] {
  const lines: string[] = []
  for (const word of text.split(' ')) {
    const last = lines.at(-1)
    if (last !== undefined && last.length + word.length < most) lines[lines.length - 1] = `${last} ${word}`
    else lines.push(word)
  }
  return lines
}
