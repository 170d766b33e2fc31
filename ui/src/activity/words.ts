const actions: Record<string, string> = {
  'sign-in': 'signed in',
  'sign-out': 'signed out',
  'mfa.register': 'registered a second factor',
  'mfa.disable': 'switched a second factor off',
  'file.read': 'opened',
  'file.write': 'wrote',
  'file.download': 'downloaded',
  'file.delete': 'deleted',
  'file.move': 'moved',
  'share.add': 'shared',
  'share.link': 'made a link to',
  'share.remove': 'stopped sharing',
  'invite.add': 'invited',
  'permission.add': 'gave access to',
  'permission.remove': 'took access from',
  'group.member-add': 'added a member to',
  'group.member-remove': 'removed a member from',
  'role.add': 'gave the role',
  'role.remove': 'took the role',
  'account.create': 'made an account',
  'account.disable': 'disabled an account',
  'mail.send': 'sent mail',
  'mail.read': 'read mail',
  'mail.forward-set': 'set forwarding of mail',
  'app.consent': 'consented to',
  'config.change': 'changed a setting',
  'device.lease': 'leased an address',
  'log.stop': 'stopped logging',
  'log.start': 'started logging',
}
/** What somebody did, as a sentence says it; an action that nobody named stands as it is. */
export const actionWords = (action?: string | null) => (action ? (actions[action] ?? action) : 'did something')

export const outcomeWords: Record<string, string> = {
  success: 'succeeded',
  failure: 'failed',
  interrupted: 'was interrupted',
}

export const feedWords: Record<string, string> = {
  http: 'sent over HTTP with a key',
  syslog: 'syslog over TCP',
  folder: 'a watched folder',
  files: 'files that are handed over',
  ledger: 'the product’s own ledger',
}

export const formatWords: Record<string, string> = {
  json: 'JSON Lines',
  csv: 'a table (CSV)',
  syslog: 'syslog (RFC 5424)',
}
