"""Two cranes unload a barge: a game that plays whole matches by itself.

It reads a request a line and writes an answer a line. Put your own game into `play`: all that it draws
comes from the seeds of the request, and the answer has the names of hoist.toml.
"""

import json
import random
import sys


def traits(seat):
    """Returns pace and care of a seat, each 0 to 1."""
    knobs = seat["knobs"]
    if seat["agent"] == "crane":
        return knobs["pace"], knobs["care"]
    # A visitor is a person: the same one in all matches of a block.
    person = random.Random(seat["person"])
    skill = min(1, max(0, person.gauss(knobs["skill"], 0.1)))
    return skill, person.random() * 0.5


def play(request):
    rules, level = request["rules"], request["level"]
    world = random.Random(request["seed"])
    depth = level["knobs"].get("depth", 0)
    gusts = [world.uniform(0, 120) for _ in range(round(20 * rules["wind"]))]

    seats = []
    for seat in request["seats"]:
        pace, care = traits(seat)
        chance, clock, landed, drops, idle, lands = random.Random(seat["seed"]), 0.0, 0, 0, 0.0, []
        while landed < rules["crates"] and clock < 300:
            wait = 2 * care + sum(1.5 for gust in gusts if clock <= gust < clock + 3)
            idle += wait
            clock += wait + (4 - 2.5 * pace) * (1 + depth / 20) * chance.uniform(0.8, 1.2)
            if chance.random() < 0.35 * pace * (1 - care) + 0.05 * rules["wind"]:
                drops += 1
            else:
                landed += 1
                lands.append(clock)
        seats.append((lands, drops, idle))

    end = min((lands[-1] for lands, _, _ in seats if len(lands) == rules["crates"]), default=300)
    scores, changes = [0, 0], []
    for at, seat in sorted((at, seat) for seat, (lands, _, _) in enumerate(seats) for at in lands):
        if at <= end:
            scores[seat] += 1
            changes.append({"at": at, "scores": list(scores), "by": "crate"})
    return {
        "scores": scores,
        "length": end,
        "ending": "unloaded" if max(scores) == rules["crates"] else "time",
        "cut_short": max(scores) < rules["crates"],
        "measures": {
            "drops": [drops for _, drops, _ in seats],
            "idle_s": [idle for _, _, idle in seats],
            "gusts": sum(gust <= end for gust in gusts),
        },
        "changes": changes,
    }


if __name__ == "__main__":
    for line in sys.stdin:
        print(json.dumps(play(json.loads(line))), flush=True)
