/**
 * Finds words of our own where the field has one: identifiers and phrases that were replaced, so that they do not come
 * back. Prints "file:line: word → use instead"; exit 1 where there is any.
 */
import { execFileSync } from 'node:child_process'
import { readFileSync } from 'node:fs'

/** Names of anything in the code. */
const IDENTIFIERS = {
  '(MOST|LEAST|FEWEST)_\\w+': 'MAX_, MIN_',
  '(least|greatest)': 'min, max',
  '(expand|evaluate)WhatFits': 'expandPartial, evaluatePartial',
  sameTypes: 'genericTypes',
  '(offable|Switchable)': 'toggleable',
  MaterialHouse: 'MaterialProvider',
  askForMaps: 'enqueueBake',
  Berth: 'LayerLocation',
  '(DrawRequest|Drawn)': 'PreviewRequest, Preview',
  Lane: 'view',
  teller: 'errorLog',
  '(sinks|SinkCard)': 'outputCards, OutputCardView',
  '(shares|tentShares)': 'ratios, weights',
}
/** In labels, messages, comments and documents, whatever the case. */
const PHRASES = {
  'taken in from': 'imported from',
  'take the point out': 'delete point',
  'pictures anew': 'new pictures',
  'loads anew': 'reloads',
  'bent to fit': 'rounded so that',
  'what the settings come to': 'resulting values',
  'turns light and dark round': 'inverts',
  'the server is not there': 'cannot reach the server',
  'gives another arrangement': 'changes the random arrangement',
  'slip of the pen': 'mistake',
  'how a wire fares': 'a wire’s state',
  'what hangs on it': 'what depends on it',
  'spread of values': 'histogram',
  'shuts light out': 'hides light',
  'fault of ours': 'a fault in the program',
}
/** A declaration, a parameter, or a member of a type. */
const declared = (name) =>
  new RegExp(`\\b(?:const|let|function|class|interface|type|readonly)\\s+(${name})\\b|[{,(]\\s*(${name})\\b\\s*[:=,?]`)

const files = execFileSync('git', ['ls-files', '-co', '--exclude-standard', '*.ts', '*.tsx', '*.md', '*.mjs'], {
  encoding: 'utf8',
})
  .split('\n')
  .filter((file) => file && !/CHANGELOG|upgrade|samples\/|generated|check-words/.test(file))
const identifiers = Object.entries(IDENTIFIERS).map(([name, use]) => [declared(name), use])
let finds = 0
for (const file of files)
  readFileSync(file, 'utf8')
    .split('\n')
    .forEach((line, index) => {
      const tell = (word, use) => {
        finds++
        console.error(`${file}:${index + 1}: ${word} → ${use}`)
      }
      if (!file.endsWith('.md'))
        for (const [name, use] of identifiers) {
          const found = name.exec(line)
          if (found) tell(found[0].trim(), use)
        }
      const low = line.toLowerCase()
      for (const [phrase, use] of Object.entries(PHRASES)) if (low.includes(phrase)) tell(`“${phrase}”`, use)
    })
process.exitCode = finds ? 1 : 0
