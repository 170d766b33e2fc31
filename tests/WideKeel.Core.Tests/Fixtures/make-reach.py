"""Writes reach.json: random directories with nested groups and cycles, and what networkx says that people reach.

Needs Debian's python3-networkx. Run it in this folder.
"""
import json
import random

import networkx as nx

random.seed(7)
cases = []
for _ in range(6):
    people = [f"p{i}" for i in range(8)]
    groups = [f"g{i}" for i in range(7)]
    resources = [f"r{i}" for i in range(8)]
    members = {g: sorted(random.sample(people + groups, random.randint(1, 4))) for g in groups}
    parents = {r: (random.choice(resources[:i]) if i and random.random() < 0.7 else None) for i, r in enumerate(resources)}
    inherits = {r: random.random() < 0.7 for r in resources}
    grants = [
        {"to": random.choice(people + groups), "resource": random.choice(resources), "role": random.choice(["reader", "writer", "owner"])}
        for _ in range(12)
    ]
    contains = nx.DiGraph()
    contains.add_nodes_from(people + groups)
    contains.add_edges_from((m, g) for g, ms in members.items() for m in ms)
    passes = nx.DiGraph()
    passes.add_nodes_from(resources)
    passes.add_edges_from((parents[r], r) for r in resources if parents[r] and inherits[r])
    expected = []
    for p in people:
        roles, length = {}, {}
        principals = {p} | nx.descendants(contains, p)
        for grant in grants:
            if grant["to"] in principals:
                for r in {grant["resource"]} | nx.descendants(passes, grant["resource"]):
                    roles.setdefault(r, set()).add(grant["role"])
                    way = nx.shortest_path_length(contains, p, grant["to"]) + 2
                    length[r] = min(length.get(r, way), way)
        expected += [{"person": p, "resource": r, "roles": sorted(roles[r]), "length": length[r]} for r in sorted(roles)]
    cases.append(
        {
            "directory": {
                "people": [{"id": p, "kind": "person"} for p in people],
                "groups": [{"id": g, "members": members[g]} for g in groups],
                "resources": [{"id": r, "parent": parents[r], "inherits": inherits[r], "links": []} for r in resources],
                "grants": grants,
            },
            "expected": expected,
        }
    )
with open("reach.json", "w") as file:
    json.dump(cases, file, indent=0)
