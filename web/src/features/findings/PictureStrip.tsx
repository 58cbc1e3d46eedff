import { KeyHint } from '@/ui/KeyHint'

export type Choice = { id: string; label: string }

type Props = { label: string; choices: readonly Choice[]; chosen: string; keyName?: string; onChoose: (id: string) => void }

/** What can be looked at, one of it chosen. */
export function PictureStrip({ label, choices, chosen, keyName, onChoose }: Props) {
  return (
    <div className="strip noprint" role="group" aria-label={label}>
      {choices.map((choice) => (
        <button key={choice.id} className="chip" aria-pressed={choice.id === chosen} onClick={() => onChoose(choice.id)}>
          {choice.label}
        </button>
      ))}
      {keyName && <KeyHint name={keyName} />}
    </div>
  )
}
