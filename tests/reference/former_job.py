"""Packs a job of an earlier format: former_job.py JOB-2.JSON PICTURES FORMAT OUT."""
import json
import os
import sys
import zipfile

job = json.load(open(sys.argv[1]))
if sys.argv[3] == "1":
    # One paper and one colour a piece, and what is now each line's own said once for all of them.
    job["yokai"] = 1
    for piece in job["pieces"]:
        keep, lines = piece["keep"], piece["cut_lines"]
        del keep["papers"], keep["colours"]
        keep["paper"] = keep["colour"] = None
        for field in ("tolerance", "corners", "join_gap", "round_inside", "smallest_notch_mm2"):
            lines[field] = lines["lines"][0][field]
            for line in lines["lines"]:
                del line[field]
with zipfile.ZipFile(sys.argv[4], "w") as out:
    out.writestr("job.json", json.dumps(job))
    for piece in job["pieces"]:
        artwork = piece["artwork"]
        out.write(os.path.join(sys.argv[2], artwork["file_name"]), artwork["picture"])
