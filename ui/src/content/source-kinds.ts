import type { Schemas } from '@/shared/api/client'

/** What each kind of source is and can do. */
export const kinds: Record<Schemas['SourceKind'], { name: string; hint: string; can: string }> = {
  share: {
    name: 'File share',
    hint: 'Each file in it is an item. Links are never followed.',
    can: 'be observed; it does not ask before a file changes. What a rule keeps is copied into safekeeping.',
  },
  mail: {
    name: 'Mail store',
    hint: 'Mailboxes (.mbox) and single messages (.eml); each message is an item, with its attachments.',
    can:
      'be observed; it does not ask before a message is deleted. What a rule keeps is copied into safekeeping. ' +
      'To destroy a message, its mailbox is written anew without it.',
  },
  workspace: {
    name: 'Workspace',
    hint:
      'Libraries of files in which people work under My files. A folder of the first level is a library; ' +
      'one that begins with # is a channel.',
    can:
      'block a change as it happens: every edit, move and delete is asked for first, ' +
      'and allowed, kept or refused by the item’s grade.',
  },
}
