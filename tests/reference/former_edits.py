"""Rewrites a job as format 3 had it: former_edits.py JOB.YOKAI OUT.YOKAI.

The first line of the first piece gets an area by its corners and a simplified outline, as they were held then.
"""
import json
import sys
import zipfile

with zipfile.ZipFile(sys.argv[1]) as made, zipfile.ZipFile(sys.argv[2], "w") as out:
    for name in made.namelist():
        data = made.read(name)
        if name == "job.json":
            job = json.loads(data)
            job["yokai"] = 3
            marks = job["sheet"]["marks"]
            job["sheet"].update(marks=marks["style"], mark_inset=marks["inset"] + 360000, mark_diameter=marks["size"])
            for piece in job["pieces"]:
                del piece["guides"]
                for layer in piece["layers"]:
                    for line in layer["cut_lines"]:
                        line["edits"] = []
            anchor = {"edge": [100, 20], "out": [0, -1], "past_mm": 0}
            plain = {"id": 0, "on": True, "from": anchor, "to": {"edge": [0, 0], "out": [0, 0], "past_mm": 0}, "offset": 720000, "size": 18000,
                     "hole": 0, "upright": False}
            job["pieces"][0]["layers"][0]["cut_lines"][0]["edits"] = [
                {**plain, "kind": "take-away", "shape": [[30, 30], [90, 30], [90, 90]]},
                {**plain, "kind": "simplify", "shape": []},
            ]
            data = json.dumps(job)
        out.writestr(name, data)
