import type { Plugin } from 'vite'

/** Which parts the pages at an address need: they are fetched beside the first script, not after it has run. */
const PARTS: readonly [address: string, parts: readonly string[]][] = [
  ['studies/[^/]+/findings', ['features/study/StudyFrame.tsx', 'features/findings/FindingsPage.tsx']],
  ['studies/[^/]+/run', ['features/study/StudyFrame.tsx', 'features/run/RunPage.tsx']],
  ['studies|', ['features/studies/StudiesPage.tsx']],
  ['today', ['features/today/TodayPage.tsx']],
]

/** Writes `preloads.json`: for each address the files that its pages need beyond those that every page loads. */
export const preloads = (): Plugin => ({
  name: 'preloads',
  generateBundle(_options, bundle) {
    const needed = (file: string, found: Set<string>): Set<string> => {
      const chunk = bundle[file]
      if (chunk?.type !== 'chunk' || found.has(file)) return found
      found.add(file)
      chunk.imports.forEach((inner) => needed(inner, found))
      return found
    }
    const chunks = Object.values(bundle).filter((item) => item.type === 'chunk')
    const entry = chunks.find((chunk) => chunk.isEntry)
    if (!entry) throw new Error('the build has no first script')
    const always = needed(entry.fileName, new Set())
    const lines = PARTS.map(([address, parts]) => {
      const files = new Set<string>()
      for (const part of parts) {
        const chunk = chunks.find((one) => one.facadeModuleId?.endsWith(part))
        if (!chunk) throw new Error(`no part of the build is ${part}`)
        needed(chunk.fileName, files)
      }
      return { address, files: [...files].filter((file) => !always.has(file)) }
    })
    this.emitFile({ type: 'asset', fileName: 'preloads.json', source: JSON.stringify(lines, null, 1) })
  },
})
