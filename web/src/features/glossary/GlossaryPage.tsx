import { useEffect } from 'react'
import { Link } from 'react-router'

import { GRADES, METHODS, TERMS, VERDICTS } from '@/format/terms'
import { Main, Prose } from '@/ui/kit'

type Entry = { word: string; says: string }

const byWord = (entries: readonly Entry[]) => [...entries].sort((a, b) => a.word.localeCompare(b.word))

/** Every word of our own, and what it means. */
export function GlossaryPage() {
  useEffect(() => {
    document.title = 'Glossary · Hare Mile'
  }, [])
  return (
    <Main>
      <Prose as="article">
        <h1>Glossary</h1>
        <p>
          The words on these pages. How each figure is calculated stands under{' '}
          <Link to="/methods">Methods</Link>.
        </p>
        <Part
          title="Words"
          entries={byWord(Object.values(TERMS).map(({ name, says }) => ({ word: name, says })))}
        />
        <Part title="Verdicts" entries={Object.entries(VERDICTS).map(([word, says]) => ({ word, says }))} />
        <p>
          Of memory and space, <b>uses less</b> and <b>uses more</b> say the same as ahead and behind.
        </p>
        <Part
          title="How a reading was taken"
          entries={byWord(
            Object.entries(METHODS).map(([key, says]) => ({ word: key.replaceAll('-', ' '), says })),
          )}
        />
        <Part title="How fair the start was" entries={Object.values(GRADES)} />
      </Prose>
    </Main>
  )
}

function Part({ title, entries }: { title: string; entries: readonly Entry[] }) {
  return (
    <>
      <h2>{title}</h2>
      <dl>
        {entries.map(({ word, says }) => (
          <div key={word}>
            <dt>
              <b>{word}</b>
            </dt>
            <dd>{says}</dd>
          </div>
        ))}
      </dl>
    </>
  )
}
