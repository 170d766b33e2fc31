"""Dates plus periods by an independent library: Debian package python3-dateutil 2.8.2 (BSD / Apache-2.0), relativedelta.
Run: python3 make-dates.py > dates.csv. The random seed is fixed, so the file comes out the same."""
import datetime as dt, random
from dateutil.relativedelta import relativedelta
random.seed(20260615)
print("date,years,months,weeks,days,sum")
edges = [dt.date(2020, 2, 29), dt.date(2019, 1, 31), dt.date(2023, 12, 31), dt.date(2000, 2, 29), dt.date(2024, 8, 31), dt.date(1999, 4, 30)]
for i in range(600):
    d = edges[i % 6] if i < 120 else dt.date(1950, 1, 1) + dt.timedelta(days=random.randrange(30000))
    y, m, w, n = random.choice([0, 0, 1, 3, 7, 30]), random.choice([0, 0, 1, 6, 11, 18]), random.choice([0, 0, 2]), random.choice([0, 0, 1, 90])
    if y + m + w + n == 0: y = 1
    print(f"{d},{y},{m},{w},{n},{d + relativedelta(years=y, months=m, weeks=w, days=n)}")
