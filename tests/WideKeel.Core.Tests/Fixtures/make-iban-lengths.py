"""Country and length of each IBAN that an independent library knows: Debian package python3-stdnum 1.18 (LGPL-2.1+), which carries the ISO 13616 registry.
Run: /usr/bin/python3 make-iban-lengths.py > iban-lengths.csv"""
import re
from stdnum import iban

print("country,length")
for line in iban._ibandb.prefixes:
    _, country, _, properties, _ = line
    length = 4 + sum(int(n) for n in re.findall(r"(\d+)!", properties["bban"]))
    print(f"{country},{length}")
