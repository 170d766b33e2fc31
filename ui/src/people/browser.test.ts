import { describe, expect, it } from 'vitest'
import { browserName } from './browser'

describe('browserName', () => {
  it('names browser and system', () =>
    expect(browserName('Mozilla/5.0 (X11; Linux x86_64; rv:140.0) Gecko/20100101 Firefox/140.0')).toBe(
      'Firefox on Linux',
    ))
  it('takes what calls itself by several names by the rarest', () =>
    expect(
      browserName(
        'Mozilla/5.0 (Windows NT 10.0; Win64; x64) AppleWebKit/537.36 (KHTML, like Gecko) Chrome/140.0 Safari/537.36 Edg/140.0',
      ),
    ).toBe('Edge on Windows'))
  it('begins an unknown program as it calls itself', () => expect(browserName('curl/8.10')).toBe('curl/8.10'))
  it('says so where nothing is said', () => expect(browserName('')).toBe('a program that says nothing of itself'))
})
