import { KeyHint } from './KeyHint'
import { Soft } from './kit'
import { Select } from './Select'

type Props = {
  label: string
  options: readonly { id: string; label: string }[]
  chosen: string
  keyName?: string
  onChoose: (id: string) => void
}

/** One of several, by name. */
export const Chooser = ({ label, options, chosen, keyName, onChoose }: Props) => (
  <Soft as="label" className="noprint">
    {label}{' '}
    <Select value={chosen} onChange={(event) => onChoose(event.target.value)}>
      {options.map((option) => (
        <option key={option.id} value={option.id}>
          {option.label}
        </option>
      ))}
    </Select>
    {keyName && <KeyHint name={keyName} />}
  </Soft>
)
