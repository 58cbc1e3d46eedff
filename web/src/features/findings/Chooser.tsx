import { KeyHint } from '@/ui/KeyHint'

type Props = { label: string; options: readonly { id: string; label: string }[]; chosen: string; keyName?: string; onChoose: (id: string) => void }

/** One of several, by name. */
export const Chooser = ({ label, options, chosen, keyName, onChoose }: Props) => (
  <label className="soft noprint">
    {label}{' '}
    <select value={chosen} onChange={(event) => onChoose(event.target.value)}>
      {options.map((option) => (
        <option key={option.id} value={option.id}>{option.label}</option>
      ))}
    </select>
    {keyName && <KeyHint name={keyName} />}
  </label>
)
