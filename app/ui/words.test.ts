import { agoInWords, bytesInWords, progressInWords, secondsInWords } from './words'

test('bytes in SI units, never a thousand of one', () => {
  expect([0, 999, 1000, 1_400_000, 999_600, 123_400_000, 2.5e9].map(bytesInWords)).toEqual([
    '0 bytes',
    '999 bytes',
    '1.0 kB',
    '1.4 MB',
    '1.0 MB',
    '123 MB',
    '2.5 GB',
  ])
})

test('how long, and how long ago, coarser the longer it is', () => {
  expect([0.4, 89, 90, 7500].map(secondsInWords)).toEqual(['0 s', '89 s', '2 min', '2 h 5 min'])
  const now = Date.parse('2026-11-27T12:00:00Z')
  const ago = (seconds: number): string => agoInWords(new Date(now - seconds * 1000).toISOString(), now)
  expect([5, 720, 3 * 3600, 25 * 3600, 3 * 86400, 8 * 86400].map(ago)).toEqual([
    'now',
    '12 min ago',
    '3 hr ago',
    'yesterday',
    '3 days ago',
    '19 Nov 2026',
  ])
})

test('progress: tenths at the beginning, whole numbers from ten on', () => {
  expect([0, 0.004, 0.0994, 0.0996, 0.43, 1].map(progressInWords)).toEqual([
    '0 %',
    '0.4 %',
    '9.9 %',
    '10 %',
    '43 %',
    '100 %',
  ])
})
