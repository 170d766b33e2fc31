"""Identifiers that an independent library accepts, and the same with one character changed so that it refuses them:
Debian package python3-stdnum 1.18 (LGPL-2.1+). Run: /usr/bin/python3 make-identifiers.py > identifiers.csv. The seed is fixed."""
import random
from stdnum import iban, imo, luhn, verhoeff
from stdnum.au import abn, tfn
from stdnum.ca import sin
from stdnum.es import dni, nie
from stdnum.fr import nir
from stdnum.gb import nhs, utr
from stdnum.iso7064 import mod_11_10, mod_11_2, mod_97_10
from stdnum.nl import bsn
from stdnum.pl import pesel
from stdnum.us import ein, itin, ssn

random.seed(20260615)
digits = lambda n: "".join(random.choice("0123456789") for _ in range(n))
date = lambda: f"{random.randrange(100):02}{random.randrange(1, 13):02}{random.randrange(1, 29):02}"
ibans = "GB82WEST12345698765432 DE89370400440532013000 FR1420041010050500013M02606 NL91ABNA0417164300 PL61109010140000071219812874 NO9386011117947".split()

def an_iban():
    base = random.choice(ibans)
    body = "".join(c if c.isalpha() else random.choice("0123456789") for c in base[4:])
    number = base[:2] + "00" + body
    return number[:2] + iban.calc_check_digits(number) + body

makers = {
    "luhn": (luhn, lambda: (lambda b: b + luhn.calc_check_digit(b))(digits(15))),
    "verhoeff": (verhoeff, lambda: (lambda b: b + verhoeff.calc_check_digit(b))(digits(11))),
    "mod-97-10": (mod_97_10, lambda: (lambda b: b + mod_97_10.calc_check_digits(b))(digits(12))),
    "mod-11-2": (mod_11_2, lambda: (lambda b: b + mod_11_2.calc_check_digit(b))(digits(15))),
    "mod-11-10": (mod_11_10, lambda: (lambda b: b + mod_11_10.calc_check_digit(b))(digits(10))),
    "iban": (iban, an_iban),
    "imo-number": (imo, lambda: (lambda b: b + imo.calc_check_digit(b))(random.choice("123456789") + digits(5))),
    "us-ssn": (ssn, lambda: digits(9)), "us-ein": (ein, lambda: digits(9)), "us-itin": (itin, lambda: "9" + digits(8)),
    "uk-utr": (utr, lambda: (lambda b: utr.calc_check_digit("0" + b) + b)(digits(9))),
    "uk-nhs": (nhs, lambda: digits(10)), "au-tfn": (tfn, lambda: digits(9)), "au-abn": (abn, lambda: digits(11)),
    "ca-sin": (sin, lambda: digits(9)), "pl-pesel": (pesel, lambda: date() + digits(5)),
    "fr-nir": (nir, lambda: (lambda b: b + nir.calc_check_digits(b))(random.choice("12") + digits(2) + f"{random.randrange(1, 13):02}" + random.choice(["75", "13", "2A", "2B", "59"]) + digits(6))),
    "es-dni": (dni, lambda: (lambda b: b + dni.calc_check_digit(b))(digits(8))),
    "es-nie": (nie, lambda: (lambda b: b + nie.calc_check_digit(b))(random.choice("XYZ") + digits(7))),
    "nl-bsn": (bsn, lambda: digits(9)),
}
print("kind,number,valid")
for kind, (module, make) in makers.items():
    done = 0
    while done < 60:
        number = make()
        if not module.is_valid(number):
            continue
        done += 1
        print(f"{kind},{number},true")
        while True:
            at = random.randrange(len(number))
            if not number[at].isdigit():
                continue
            wrong = number[:at] + random.choice([d for d in "0123456789" if d != number[at]]) + number[at + 1:]
            if not module.is_valid(wrong):
                print(f"{kind},{wrong},false")
                break
            if kind in ("us-ssn", "us-ein", "us-itin"):  # structure only: one digit wrong may be another's number
                break
