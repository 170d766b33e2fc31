"""The folding of letters that words are compared by, from the Unicode character database inside Python's unicodedata.
Run: python3 make-folding.py > folding.txt. A line is a code point in hexadecimal, a blank and what it folds to, which may be nothing.
Left out: letters whose lower case is all there is to it, and Hangul syllables, which stay as they are."""
import unicodedata as u

PLAIN = {"ł": "l", "ø": "o", "đ": "d", "ð": "d", "ħ": "h", "ŧ": "t", "ı": "i", "ß": "ss", "æ": "ae", "œ": "oe", "þ": "th", "ς": "σ"}
MARKS = [(0x300, 0x36F), (0x1AB0, 0x1AFF), (0x1DC0, 0x1DFF), (0x20D0, 0x20FF), (0xFE20, 0xFE2F)]

print(f"# Unicode {u.unidata_version}")
for c in range(0x80, 0x110000):
    if 0xAC00 <= c <= 0xD7A3 or 0xD800 <= c <= 0xDFFF:
        continue
    char = chr(c)
    if u.category(char)[0] not in "LNM":
        continue
    folded = "".join(PLAIN.get(l, l) for d in u.normalize("NFKD", char) if not any(a <= ord(d) <= b for a, b in MARKS) for l in d.lower())
    # What a compatibility form brings along that is neither letter nor digit (brackets, dots, fraction strokes) is no part of a word.
    folded = "".join(d for d in u.normalize("NFKD", folded) if u.category(d)[0] in "LNM" and not any(a <= ord(d) <= b for a, b in MARKS))
    if folded != char.lower():
        print(f"{c:X} {folded}")
