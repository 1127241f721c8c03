"""Small planning problems as mixed-integer models, solved by glpsol (GLPK): what they come to is kept for the tests.

The model is written from the meaning of the fields, apart from the planner: arcs, times, windows and overtime for each
crew-day, with a big M where an arc is not used. Called by make check-outside.
"""
import itertools
import json
import random
import subprocess
import sys
import tempfile
from datetime import date, timedelta

START = date(2026, 3, 2)
M = 3000


def draw(seed):
    r = random.Random(seed)
    sites = ["hall", "museum", "tower"]
    points = {"base": (0, 0)} | {s: (r.randint(-30, 30), r.randint(-30, 30)) for s in sites}
    names = ["base"] + sites
    travel = [[round(abs(points[a][0] - points[b][0]) + abs(points[a][1] - points[b][1])) for b in names] for a in names]
    crews = []
    for n in range(2):
        shift = {"starts": 420, "minutes": r.choice([180, 240, 300]), "people": 2 - n}
        rest = {"starts": 0, "minutes": 0, "people": 0}
        crews.append({
            "id": f"crew{n}", "base": "base", "hour_cost": 60 + 30 * (1 - n), "overtime_minutes": 30, "overtime_hour_cost": 40,
            "day_fee": 10 * n, "work_hour_cost": 6 * n, "weekly": [rest] + [shift] * 5 + [rest],
        })
    jobs = []
    for n in range(r.randint(5, 6)):
        jobs.append({
            "id": f"job{n}", "place": r.choice(sites), "due": str(START + timedelta(days=r.randint(-6, 5))), "hours": r.choice(["", "", "noon", "twice"]),
            "minutes": r.randint(15, 70), "people": r.choice([1, 1, 2]),
            "waiting": {"early_day": r.randint(0, 4), "late_weeks": [r.randint(0, 70), 90]}, "left_out_cost": r.randint(40, 160),
        })
    week = lambda spans: [[]] + [spans] * 5 + [[]]
    return {
        "start": str(START), "days": 2, "places": [{"id": n} for n in names], "travel": {"minutes": travel}, "crews": crews, "jobs": jobs,
        "hours": [
            {"id": "noon", "weekly": week([{"from": 600, "to": 720}])},
            {"id": "twice", "weekly": week([{"from": 400, "to": 500}, {"from": 640, "to": 760}])},
        ],
    }


def waiting(job, day):
    def on(day):
        late = (day - date.fromisoformat(job["due"])).days
        w = job["waiting"]
        if late <= 0:
            return -late * w["early_day"]
        weeks = [0] + w["late_weeks"]
        k = min(late // 7, len(weeks) - 2)
        return weeks[k] + (weeks[k + 1] - weeks[k]) * (late / 7 - k)
    due = date.fromisoformat(job["due"])
    return on(day) - (on(START) if due < START else 0)


def model(p):
    names = [x["id"] for x in p["places"]]
    go = lambda a, b: 0 if a == b else p["travel"]["minutes"][names.index(a)][names.index(b)]
    hours = {h["id"]: h["weekly"] for h in p["hours"]}
    cost, rows, binary, bounds = {}, [], [], []

    def add(v, c):
        cost[v] = cost.get(v, 0) + c

    J = range(len(p["jobs"]))
    for j in J:
        add(f"left{j}", p["jobs"][j]["left_out_cost"])
        binary.append(f"left{j}")
    on = {j: [f"left{j}"] for j in J}
    for c, d in itertools.product(range(len(p["crews"])), range(p["days"])):
        crew, day, k = p["crews"][c], START + timedelta(days=d), f"{c}_{d}"
        shift = crew["weekly"][(day.weekday() + 1) % 7]
        end = shift["starts"] + shift["minutes"]
        able = [j for j in J if p["jobs"][j]["people"] <= shift["people"]]
        out, into = {}, {}
        arc = lambda i, j: f"x_{k}_{i}_{j}"
        node = ["s"] + able
        for i, j in itertools.product(node, able + ["e"]):
            if i == j or (i == "s" and j == "e"):
                continue
            v = arc(i, j)
            binary.append(v)
            out.setdefault(i, []).append(v)
            into.setdefault(j, []).append(v)
            here = crew["base"] if i == "s" else p["jobs"][i]["place"]
            if j == "e":
                road = go(here, crew["base"])
            else:
                there = p["jobs"][j]["place"]
                road = go(here, there) + 20 if i == "s" or here != there else 0
            add(v, road * crew["hour_cost"] / 60)
            if i == "s":
                add(v, crew["day_fee"])
            done = shift["starts"] if i == "s" else None
            if j == "e":
                rows.append(f"t_{k}_{i} - o_{k} + {M} {v} <= {end - p['jobs'][i]['minutes'] - road + M}")
            elif done is not None:
                rows.append(f"t_{k}_{j} - {M} {v} >= {done + road - M}")
            else:
                rows.append(f"t_{k}_{j} - t_{k}_{i} - {M} {v} >= {p['jobs'][i]['minutes'] + road - M}")
        if out.get("s"):
            rows.append(" + ".join(out["s"]) + " <= 1")
            rows.append(" + ".join(out["s"]) + " - " + " - ".join(into["e"]) + " = 0")
        add(f"o_{k}", crew["overtime_hour_cost"] / 60)
        bounds.append(f"0 <= o_{k} <= {crew['overtime_minutes']}")
        for j in able:
            job = p["jobs"][j]
            rows.append(" + ".join(into[j]) + " - " + " - ".join(out[j]) + " = 0")
            price = waiting(job, day) + crew["work_hour_cost"] * job["minutes"] / 60
            for v in into[j]:
                add(v, price)
            on[j] += into[j]
            if job["hours"]:
                spans = hours[job["hours"]][(day.weekday() + 1) % 7]
                z = [f"z_{k}_{j}_{n}" for n in range(len(spans))]
                binary += z
                rows.append(" + ".join(z) + " - " + " - ".join(into[j]) + " >= 0")
                for v, s in zip(z, spans):
                    rows.append(f"t_{k}_{j} - {M} {v} >= {s['from'] - M}")
                    rows.append(f"t_{k}_{j} + {M} {v} <= {s['to'] - job['minutes'] + M}")
                rows.append(" + ".join(z) + " <= 1")
    for j in J:
        rows.append(" + ".join(on[j]) + " = 1")
    text = "Minimize\n cost: " + "\n  ".join(f"{c:+.9f} {v}" for v, c in cost.items()) + "\nSubject To\n" + "\n".join(f" r{n}: {r}" for n, r in enumerate(rows))
    return text + "\nBounds\n" + "\n".join(" " + b for b in bounds) + "\nBinary\n " + "\n ".join(binary) + "\nEnd\n"


def solve(p):
    with tempfile.TemporaryDirectory() as folder:
        with open(folder + "/model.lp", "w") as f:
            f.write(model(p))
        said = subprocess.run(["glpsol", "--lp", folder + "/model.lp", "-o", folder + "/out", "--tmlim", "120", "--cuts"], capture_output=True, text=True, check=True).stdout
        if "INTEGER OPTIMAL SOLUTION FOUND" not in said:
            sys.exit("glpsol found no optimum:\n" + said)
        with open(folder + "/out") as f:
            return next(float(line.split("=")[1].split()[0]) for line in f if line.startswith("Objective"))


def main(kept):
    version = subprocess.run(["glpsol", "--version"], capture_output=True, text=True, check=True).stdout.split("\n")[0]
    cases = [{"problem": p, "optimum": solve(p)} for p in map(draw, range(1, 9))]
    with open(kept, "w") as f:
        json.dump({"solved_by": version, "cases": cases}, f, indent=1)
        f.write("\n")


main(sys.argv[1])
