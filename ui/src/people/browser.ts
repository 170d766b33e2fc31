const browsers: [RegExp, string][] = [
  [/Edg\//, 'Edge'],
  [/Firefox\//, 'Firefox'],
  [/Chrome\//, 'Chrome or Chromium'],
  [/Safari\//, 'Safari'],
]
const systems: [RegExp, string][] = [
  [/Android/, 'Android'],
  [/iPhone|iPad/, 'iOS'],
  [/Windows/, 'Windows'],
  [/Mac OS X/, 'macOS'],
  [/Linux/, 'Linux'],
]

/** A browser's own description (RFC 9110, User-Agent) in a few words; its beginning where it is no known one. */
export function browserName(agent: string) {
  const found = (of: [RegExp, string][]) => of.find(([pattern]) => pattern.test(agent))?.[1]
  const browser = found(browsers)
  const system = found(systems)
  if (!browser) return agent.slice(0, 40) || 'a program that says nothing of itself'
  return system ? `${browser} on ${system}` : browser
}
