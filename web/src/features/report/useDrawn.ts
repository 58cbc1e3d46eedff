import { useEffect, useState } from 'react'

const NONE: ReadonlyMap<string, HTMLImageElement> = new Map()

/** PNG pictures (base64) as they can be drawn, by their text; one that cannot be read is left out. */
export function useDrawn(texts: readonly string[]) {
  const [found, setFound] = useState<{ of: string; pictures: ReadonlyMap<string, HTMLImageElement> }>({
    of: '',
    pictures: NONE,
  })
  const asked = texts.join(' ')
  useEffect(() => {
    if (!asked) return
    let isGone = false
    const pictures = new Map<string, HTMLImageElement>()
    const each = asked.split(' ').map(async (text) => {
      const image = new Image()
      image.src = `data:image/png;base64,${text}`
      try {
        await image.decode()
        pictures.set(text, image)
      } catch {
        return // no picture: the lane is drawn from its marks
      }
    })
    void Promise.all(each).then(() => {
      if (!isGone) setFound({ of: asked, pictures })
    })
    return () => {
      isGone = true
    }
  }, [asked])
  return { pictures: found.of === asked ? found.pictures : NONE, isComplete: found.of === asked }
}
