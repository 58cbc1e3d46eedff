import { readFileSync } from 'node:fs'
import { fileURLToPath } from 'node:url'

import react from '@vitejs/plugin-react'
import { defineConfig, type Plugin } from 'vite'

import { dark, light, variables } from './src/theme/tokens.ts'

const FACES = [
  ['Public Sans Variable', 'public-sans/files/public-sans-latin-wght-normal.woff2'],
  ['Bricolage Grotesque Variable', 'bricolage-grotesque/files/bricolage-grotesque-latin-wght-normal.woff2'],
] as const

const font = ([family, file]: readonly [string, string]) => {
  const body = readFileSync(new URL(`./node_modules/@fontsource-variable/${file}`, import.meta.url))
  return `@font-face{font-family:'${family}';font-weight:200 900;src:url(data:font/woff2;base64,${body.toString('base64')}) format('woff2')}`
}

const colours = (tokens: Record<string, string>) =>
  Object.entries(variables(tokens as typeof light))
    .map(([name, value]) => `${name}:${value}`)
    .join(';')

/** Writes `report.css`: fonts, colours light and dark, and the looks of a page of print. */
const looks = (): Plugin => ({
  name: 'report-looks',
  generateBundle() {
    const own = readFileSync(new URL('./src/report/report.css', import.meta.url), 'utf8')
    const source = [
      ...FACES.map(font),
      `:root{${colours(light)}}`,
      `@media screen and (prefers-color-scheme:dark){:root{${colours(dark)}}}`,
      own,
    ].join('\n')
    this.emitFile({ type: 'asset', fileName: 'report.css', source })
  },
})

/** What draws the pictures of a published report, as one script that stands in the file itself. */
export default defineConfig({
  publicDir: false,
  plugins: [react(), looks()],
  define: { 'process.env.NODE_ENV': '"production"' },
  resolve: { alias: { '@': fileURLToPath(new URL('./src', import.meta.url)) } },
  build: {
    outDir: 'dist/report',
    lib: {
      entry: fileURLToPath(new URL('./src/report/main.tsx', import.meta.url)),
      name: 'HareMileReport',
      formats: ['iife'],
      fileName: () => 'report.js',
    },
  },
})
