// Dates plus periods by npm temporal-polyfill 1.0.8 (MIT), a second independent library. Columns as in dates.csv.
// Run: npm i temporal-polyfill@1.0.8 && node make-temporal.mjs > temporal.csv. The generator is seeded.
import { Temporal } from 'temporal-polyfill'
let s = 20261123
const r = (n) => Math.floor(((s = (Math.imul(s, 1664525) + 1013904223) >>> 0) / 2 ** 32) * n)
const pick = (a) => a[r(a.length)]
console.log('date,years,months,weeks,days,sum')
for (let i = 0; i < 600; i++) {
  const date = i % 3 ? Temporal.PlainDate.from('1950-01-01').add({ days: r(36000) }) : Temporal.PlainDate.from(pick(['2020-02-29', '2024-02-29', '2023-01-31', '2023-05-31', '2023-12-31', '2000-08-31']))
  const period = { years: pick([0, 1, 3, 7, 30]), months: pick([0, 1, 6, 11, 13]), weeks: pick([0, 0, 2]), days: pick([0, 1, 28, 90]) }
  if (Object.values(period).every((n) => n === 0)) period.years = 1
  console.log([date, period.years, period.months, period.weeks, period.days, date.add(period)].join(','))
}
