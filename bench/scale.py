"""How long the program takes over much of everything: rows, shots, renders, steps. Prints a table in Markdown.
Usage: scale.py PROGRAM"""

import json
import sqlite3
import statistics
import subprocess
import sys
import tempfile
import time
import urllib.request

FRAMES = {"first": 1, "last": 9}
PICTURE = {"width": 64, "height": 36, "fps": 24, "frames": FRAMES}


class Served:
    """The program on a folder of its own."""

    def __init__(self, program, data):
        self.command = [program, "serve", "--data", data, "--listen", "127.0.0.1:0"]
        self.start()

    def start(self):
        self.child = subprocess.Popen(self.command, stdout=subprocess.PIPE, stderr=subprocess.DEVNULL, text=True)
        self.base = self.child.stdout.readline().split(" is at ")[1].strip().rstrip("/")

    def stop(self):
        self.child.terminate()
        self.child.wait(timeout=30)

    def get(self, path):
        return urllib.request.urlopen(self.base + path).read()

    def post(self, path, value):
        headers = {"content-type": "application/json"}
        request = urllib.request.Request(self.base + path, json.dumps(value).encode(), headers)
        return json.loads(urllib.request.urlopen(request).read())

    def edit(self, code, base, command):
        return self.post(f"/api/shots/Own/{code}/edit", {"base": base, "command": command})


def median_ms(work, times=9):
    taken = []
    for _ in range(times):
        begun = time.perf_counter()
        work()
        taken.append((time.perf_counter() - begun) * 1e3)
    return statistics.median(taken)


def setting(stage, stops):
    return {"do": "set", "stage": stage, "control": "exposure", "setting": stops}


def edits(served, code, stage):
    """Milliseconds of an edit of one row, each on what came of the one before."""
    revision = [json.loads(served.get(f"/api/shots/Own/{code}/state"))["revision"]]
    values = iter(range(1000))

    def one():
        revision[0] = served.edit(code, revision[0], setting(stage, 0.001 * next(values) - 0.5))["revision"]

    return median_ms(one)


def edits_on(served, code, base):
    """Milliseconds of an edit on one old revision, each of another row, which nobody has changed since."""
    stages = iter(range(5, 100))
    return median_ms(lambda: served.edit(code, base, setting(next(stages), 0.5)))


def long_setup(served, code, rows, chained):
    served.post("/api/shows/Own/shots", {"code": code, "picture": PICTURE})
    add = {"do": "add", "kind": "grade", "after": None}
    if chained:
        # On the final row: each goes before it on its strand.
        add["after"] = 1
    served.edit(code, 1, {"do": "together", "commands": [add] * rows})


def many_steps(data, code, count):
    """As if so many edits of other rows had been made before the last one."""
    with sqlite3.connect(f"{data}/veil.db") as store:
        (shot,) = store.execute("select id from shots where code = ?", (code,)).fetchone()
        columns = "edit, undone, at, pane"
        row = store.execute(f"select {columns} from history where shot_id = ? order by id desc limit 1", (shot,)).fetchone()
        (revision,) = store.execute("select revision from shots where id = ?", (shot,)).fetchone()
        rows = [(shot, revision + 1 + step, *row) for step in range(count)]
        met = [(shot, revision + 1 + step) for step in range(count)]
        store.executemany("insert into touched (shot_id, revision, part, label) values (?, ?, 'row 3', 'exposure')", met)
        store.executemany(f"insert into history (shot_id, revision, {columns}) values (?, ?, ?, ?, ?, ?)", rows)
        store.execute("update shots set revision = ? where id = ?", (revision + count, shot))
        return revision


def many_shots(served, data, count):
    for number in range(count):
        served.post("/api/shows/Own/shots", {"code": f"N{number:04}", "picture": PICTURE})
    served.post("/api/shots/Own/N0000/render", {"frames": "1-1", "form": "png"})
    while b'data-state="done"' not in served.get("/renders"):
        time.sleep(0.05)
    served.stop()
    with sqlite3.connect(f"{data}/veil.db") as store:
        kept = [name for _, name, *_ in store.execute("pragma table_info(renders)") if name not in ("id", "shot_id")]
        names = ", ".join(kept)
        row = store.execute(f"select {names} from renders").fetchone()
        marks = ", ".join("?" * (len(kept) + 1))
        shots = store.execute("select id from shots where code like 'N%'").fetchall()
        store.executemany(f"insert into renders (shot_id, {names}) values ({marks})", [(shot, *row) for (shot,) in shots])
    served.start()


def main(program):
    lines = ["| what | ms | to be at most |", "|---|---|---|"]

    def line(what, ms, most):
        lines.append(f"| {what} | {ms:.0f} | {most}{'' if ms <= most else ', not reached'} |")

    with tempfile.TemporaryDirectory() as data:
        served = Served(program, data)
        served.post("/api/shows", {"name": "Own"})
        for code, chained, words in [("CHAIN", True, "in one chain"), ("APART", False, "apart")]:
            long_setup(served, code, 2000, chained)
            line(f"an edit of a setup of 2,000 rows {words}", edits(served, code, 1000), 60)
            line(f"its page, {words}", median_ms(lambda: (served.get(f"/shots/Own/{code}"), served.get(f"/api/shots/Own/{code}/state"))), 1000)
        long_setup(served, "STEPS", 20, True)
        served.edit("STEPS", 2, setting(3, 0.25))
        served.stop()
        old = many_steps(data, "STEPS", 20_000)
        served.start()
        line("an edit after 20,000 steps", edits(served, "STEPS", 2), 40)
        line("an edit on the revision of 20,000 steps before", edits_on(served, "STEPS", old), 40)
        many_shots(served, data, 1000)
        line("the shot wall with 1,000 shots and 1,000 renders", median_ms(lambda: served.get("/")), 300)
        line("its page of renders", median_ms(lambda: served.get("/renders")), 300)
        served.stop()
    print("\n".join(lines))


if __name__ == "__main__":
    main(sys.argv[1])
