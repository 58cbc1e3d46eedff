/** A word in its own border: dash and dots tell what colour alone would not. */
export const Tag = ({ word }: { word: string }) => (
  <span className={`tag ${word.split(' ')[0]}`}>{word}</span>
)
