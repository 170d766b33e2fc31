"""Makes odd.mbox, a mailbox of invented messages with what goes wrong in mailboxes, and odd.jsonl: what Python's mailbox and email modules read.

Run with Python 3.11: python3 make-mbox.py
"""
import email, email.policy, hashlib, json, mailbox, pathlib
from email.utils import parseaddr, parsedate_to_datetime

here = pathlib.Path(__file__).parent
line = b'From x@y Mon Jun  1 10:00:00 2026\n'
part = b'--b\nContent-Type: text/plain; charset=utf-8\n\n'
letters = [
    (b'From: Anna Brand <anna@post.example>\nSubject: plain\nDate: Mon, 1 Jun 2026 10:00:00 +0200\n\nA plain body.\n', ['A plain body.']),
    (b'From: anna@post.example\nSubject: quoted\nDate: Tue, 2 Jun 2026 10:00:00 +0000\n\n>From here on it is quoted.\nThen on.\n', ['Then on.']),
    (b'From: anna@post.example\nSubject: no blank line before From\nDate: Wed, 3 Jun 2026 10:00:00 +0000\n\nTold\n From the quay.\n', ['From the quay.']),
    (b'From: =?utf-8?b?w5h5dmluZA==?= <oyvind@post.example>\nSubject: =?iso-8859-1?q?Bl=E5b=E6r?=\nDate: Thu, 4 Jun 2026 23:30:00 -0500\nContent-Type: text/plain; charset=iso-8859-1\nContent-Transfer-Encoding: quoted-printable\n\nSm=F8r=\nbr=F8d\n', ['Sm\u00f8rbr\u00f8d']),
    (b'From: anna@post.example\nSubject: attachments\nDate: Fri, 5 Jun 2026 10:00:00 +0000\nContent-Type: multipart/mixed; boundary="b"\n\n' + part + b'Body.\n--b\nContent-Type: text/csv; name="counts.csv"\nContent-Disposition: attachment; filename="counts.csv"\nContent-Transfer-Encoding: base64\n\nYWR1bHRzLDEyCg==\n--b\nContent-Type: application/octet-stream\nContent-Disposition: attachment; filename*=utf-8\'\'b%C3%A5t.bin\n\nxx\n--b--\n', ['Body.', 'adults,12']),
    (b'From: anna@post.example\nSubject: same twice\nDate: Sat, 6 Jun 2026 10:00:00 +0000\n\nTwice.\n', ['Twice.']),
    (b'From: anna@post.example\nSubject: same twice\nDate: Sat, 6 Jun 2026 10:00:00 +0000\n\nTwice.\n', ['Twice.']),
    (b'From: anna@post.example\r\nSubject: carriage returns\r\nDate: Sun, 7 Jun 2026 10:00:00 +0000\r\n\r\nOne.\r\nTwo.\r\n', ['Two.']),
    (b'From: anna@post.example\nSubject: no date at all\n\nUndated.\n', ['Undated.']),
    (b'From: anna@post.example\nSubject: empty body\nDate: Mon, 8 Jun 2026 10:00:00 +0000\n\n', []),
    (b'From: anna@post.example\nSubject: html\nDate: Tue, 9 Jun 2026 10:00:00 +0000\nContent-Type: text/html\n\n<p>Harbour <b>dues</b></p>\n', ['Harbour']),
    (b'From: anna@post.example\nSubject: blank lines at the end\nDate: Wed, 10 Jun 2026 10:00:00 +0000\n\nEnd.\n\n\n', ['End.']),
]
(here / 'odd.mbox').write_bytes(b''.join(line + raw + b'\n' for raw, _ in letters))

box = mailbox.mbox(here / 'odd.mbox', create=False)
with open(here / 'odd.jsonl', 'w') as out:
    for key, (_, words) in zip(box.keys(), letters, strict=True):
        raw = box.get_bytes(key)
        message = email.message_from_bytes(raw, policy=email.policy.default)
        date = message['date'] and parsedate_to_datetime(message['date'])
        out.write(json.dumps({
            'sha256': hashlib.sha256(raw).hexdigest(), 'subject': message['subject'], 'from': parseaddr(str(message['from']))[1],
            'date': date and date.date().isoformat(), 'attachments': [p.get_filename() for p in message.iter_attachments()] if message.is_multipart() else [], 'words': words,
        }) + '\n')
