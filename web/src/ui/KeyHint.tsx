/** The key that does the same. */
export const KeyHint = ({ name }: { name: string }) => (
  <kbd className="hint" aria-hidden="true">
    {name}
  </kbd>
)
