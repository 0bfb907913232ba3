#!/usr/bin/env python3
"""Native OpenCV on the same frames: reference.py bracket|fuse|tone DIR  prints {"ms": ..., "peakMiB": ...}, reading included."""
import glob, json, resource, sys, time
import cv2
import numpy as np

job, root = sys.argv[1:3]
files = sorted(glob.glob(f"{root}/*.jpg"))
if job == "tone":
    hdr = cv2.imread(files[0]).astype(np.float32) / 32
    t0 = time.perf_counter()
    cv2.createTonemapDrago(2.2).process(hdr)
else:
    t0 = time.perf_counter()
    frames = [cv2.imread(f) for f in files]
    if job == "bracket":
        cv2.createAlignMTB().process(frames, frames)
        cv2.createMergeDebevec().process(frames, np.array([2.0 ** (-4 + 8 * i / (len(frames) - 1)) for i in range(len(frames))], np.float32))
    else:
        cv2.createMergeMertens().process(frames)
print(json.dumps({"ms": round((time.perf_counter() - t0) * 1000), "peakMiB": resource.getrusage(resource.RUSAGE_SELF).ru_maxrss // 1024}))
