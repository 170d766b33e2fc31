"""Writes statistics.json: tails, limits and chances as scipy computes them. Needs Debian's python3-scipy."""
import json
import math

from scipy import stats

tails = []
for x, mean, variance in [
    (9, 3, 1), (30, 2.5, 2.0), (5, 0.1, 0.05), (1, 0.7, 0.7), (12, 3, 9),
    (40, 5, 30), (3, 4, 2), (100, 10, 12), (7, 0.5, 3.2), (60, 1, 1),
]:
    if variance <= mean:
        log = stats.poisson.logsf(x - 1, mean)
    else:
        log = stats.nbinom.logsf(x - 1, mean * mean / (variance - mean), mean / variance)
    tails.append({"x": x, "mean": mean, "variance": variance, "surprise": -log / math.log(10)})
limits = [
    {"found": k, "size": n, "confidence": c, "limit": stats.beta.ppf(c, k + 1, n - k)}
    for k, n, c in [(0, 59, 0.95), (1, 93, 0.95), (3, 120, 0.9), (10, 60, 0.99), (0, 1, 0.95)]
]
hypergeometric = [
    {"population": N, "deviations": D, "size": n, "atMost": k, "chance": stats.hypergeom.cdf(k, N, D, n)}
    for N, D, n, k in [(100, 5, 45, 0), (500, 25, 60, 1), (40, 8, 12, 2), (1000, 50, 90, 1)]
]
binomial = [
    {"size": n, "rate": p, "atMost": k, "chance": stats.binom.cdf(k, n, p)}
    for n, p, k in [(59, 0.05, 0), (93, 0.05, 1), (200, 0.1, 12), (1000, 0.01, 4)]
]
with open("statistics.json", "w") as file:
    json.dump({"tails": tails, "limits": limits, "hypergeometric": hypergeometric, "binomial": binomial}, file, indent=1)
