// Random JSON values and their canonical form by npm json-canonicalize 3.0.1 (MIT), a second implementation of RFC 8785.
// Run: npm i json-canonicalize@3.0.1 && node make-canonical.mjs > canonical.jsonl. The generator is seeded.
import { canonicalize } from 'json-canonicalize'
let s = 20260615
const r = () => ((s = (Math.imul(s, 1664525) + 1013904223) >>> 0) / 2 ** 32)
const pick = (a) => a[Math.floor(r() * a.length)]
const words = ['a', 'B', 'é', '\u20ac', '\ud83d\ude02', 'x"y', '\\', '\n', '\u0007', '/', '\u007f', '', '1', 'zz', '\u0000', '\ufb33']
const text = () => Array.from({ length: Math.floor(r() * 4) }, () => pick(words)).join('')
const number = () => pick([() => Math.floor(r() * 1e6), () => (r() - 0.5) * 10 ** Math.floor(r() * 40 - 20), () => 0, () => -1, () => 1e21, () => 1e-7, () => 123456789012345680000, () => 5e-324, () => 1.7976931348623157e308])()
const value = (d) => (d <= 0 ? pick([text, number, () => true, () => false, () => null])() : pick([() => Array.from({ length: Math.floor(r() * 4) }, () => value(d - 1)), () => Object.fromEntries(Array.from({ length: Math.floor(r() * 5) }, () => [text(), value(d - 1)])), () => value(0)])())
for (let i = 0; i < 400; i++) {
  const v = value(4)
  console.log(JSON.stringify({ input: JSON.stringify(v), canonical: canonicalize(v) }))
}
