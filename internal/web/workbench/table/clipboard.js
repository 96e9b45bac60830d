// Cells as spreadsheets put them on the clipboard: tabs between cells, lines between rows, quotes around what has either.

// readSheet gives the rows of what was copied in a spreadsheet.
export function readSheet(text) {
  const rows = [['']]
  let quoted = false
  for (let i = 0; i < text.length; i++) {
    const sign = text[i]
    const row = rows.at(-1)
    if (quoted && sign === '"' && text[i + 1] === '"') {
      row[row.length - 1] += sign
      i++
    } else if (quoted && sign === '"') quoted = false
    else if (quoted) row[row.length - 1] += sign
    else if (sign === '"' && row.at(-1) === '') quoted = true
    else if (sign === '\t') row.push('')
    else if (sign === '\n' || sign === '\r') {
      if (sign === '\r' && text[i + 1] === '\n') i++
      rows.push([''])
    } else row[row.length - 1] += sign
  }
  const last = rows.at(-1)
  if (last.length === 1 && last[0] === '') rows.pop()
  return rows
}

const cell = text => (/[\t\n\r"]/.test(text) ? `"${text.replaceAll('"', '""')}"` : text)

// writeSheet writes rows as a spreadsheet reads them.
export const writeSheet = rows => rows.map(row => row.map(cell).join('\t')).join('\n')
