// Builds what the program embeds: two style sheets, three scripts, fonts and the icons that the screens use. Styles and
// scripts stand with what they are for; what is made of them is committed, and the tests fail if it is stale.
import { execFileSync } from 'node:child_process'
import { copyFileSync, readFileSync, writeFileSync } from 'node:fs'
import { createRequire } from 'node:module'
import { dirname, join } from 'node:path'
import { fileURLToPath } from 'node:url'
import esbuild from 'esbuild'

const here = dirname(fileURLToPath(import.meta.url))
const root = join(here, '../../..')
const built = process.argv[2] ?? join(here, 'built')
const modules = join(root, 'node_modules')
createRequire(import.meta.url)

const web = join(here, '..')
for (const sheet of ['public', 'workbench']) {
  execFileSync(
    join(modules, '.bin/tailwindcss'),
    ['-i', join(web, sheet, `${sheet}.css`), '-o', join(built, `${sheet}.css`), '--minify'],
    { cwd: root, stdio: ['ignore', 'ignore', 'pipe'] },
  )
}
await esbuild.build({
  entryPoints: ['public/public', 'public/proof', 'workbench/workbench'].map(name => join(web, `${name}.js`)),
  entryNames: '[name]',
  outdir: built,
  bundle: true,
  minify: true,
  format: 'esm',
  target: 'es2022',
  legalComments: 'none',
  nodePaths: [modules],
  logLevel: 'warning',
})
const fonts = {
  'text.woff2':
    '@fontsource-variable/atkinson-hyperlegible-next/files/atkinson-hyperlegible-next-latin-wght-normal.woff2',
  'text-ext.woff2':
    '@fontsource-variable/atkinson-hyperlegible-next/files/atkinson-hyperlegible-next-latin-ext-wght-normal.woff2',
  'mono.woff2': '@fontsource/ibm-plex-mono/files/ibm-plex-mono-latin-400-normal.woff2',
}
for (const [name, from] of Object.entries(fonts)) copyFileSync(join(modules, from), join(built, name))

// The marks that browsers show beside the name of a page: the board's for the public site, the ladder for the workbench.
for (const mark of ['site', 'bench']) copyFileSync(join(here, `src/${mark}.svg`), join(built, `${mark}.svg`))

const icons = readFileSync(join(here, 'src/icons.txt'), 'utf8').split(/\s+/).filter(Boolean)
const symbols = icons.map(name => {
  const svg = readFileSync(join(modules, `lucide-static/icons/${name}.svg`), 'utf8')
  const inner = svg
    .slice(svg.indexOf('>', svg.indexOf('<svg')) + 1, svg.lastIndexOf('</svg>'))
    .replace(/\s+/g, ' ')
    .trim()
  const line = 'stroke="currentColor" stroke-width="2" stroke-linecap="round" stroke-linejoin="round"'
  return `<symbol id="${name}" viewBox="0 0 24 24" fill="none" ${line}>${inner}</symbol>`
})
writeFileSync(join(built, 'icons.svg'), `<svg xmlns="http://www.w3.org/2000/svg">${symbols.join('')}</svg>\n`)
