#!/usr/bin/env python3
"""Holds the demo's macro stacks against renders of their scenes through a pinhole, in which all is sharp.

focusRender.py [DIR]  renders what DIR (build/focusRender) does not hold yet with Debian's povray (about a minute each on two
cores), merges the demo frames by each method with bin/rhizome, lays the render on the merge by a homography found by OpenCV, and
prints PSNR in sRGB codes, and the error of bands of 1.5 to 12 px in smooth parts near edges (4 to 30 px off one) and far from
any. The lifted leg of the beetle is in no render, and what the lens sees beside an edge the pinhole does not."""
import os, subprocess, sys
import cv2
import numpy as np

root = os.path.join(os.path.dirname(os.path.abspath(__file__)), "..")
out = os.path.abspath(sys.argv[1] if len(sys.argv) > 1 else os.path.join(root, "build/focusRender"))
os.makedirs(out, exist_ok=True)
SCENES = {"clockdrive": (439, 462), "beetle": (463, 480), "moss": (523, 558)}
BORDER = 45

encode = lambda l: np.where(l <= 0.0031308, 12.92 * l, 1.055 * np.clip(l, 1e-9, None) ** (1 / 2.4) - 0.055)
decode = lambda s: np.where(s <= 0.04045, s / 12.92, ((s + 0.055) / 1.055) ** 2.4)
smooth = lambda p, sigma: cv2.GaussianBlur(p, (0, 0), sigma)


def laid(render, merged):
    """The render's light as the merge shows it, and where it covers it."""
    shape = (merged.shape[1], merged.shape[0])
    grey, sharp = merged.mean(2), render.mean(2)
    a = encode(np.clip(grey, 0, 1)).astype(np.float32)
    b = encode(np.clip(sharp * np.median(grey) / np.median(sharp), 0, 1)).astype(np.float32)
    m = np.array([[1, 0, (b.shape[1] - a.shape[1]) / 2], [0, 1, (b.shape[0] - a.shape[0]) / 2], [0, 0, 1]], np.float32)
    for window in (31, 11, 3):
        _, m = cv2.findTransformECC(a, b, m, cv2.MOTION_HOMOGRAPHY, (3, 300, 1e-8), None, window)
    light = cv2.warpPerspective(render, m, shape, flags=cv2.INTER_CUBIC | cv2.WARP_INVERSE_MAP)
    inside = cv2.warpPerspective(np.ones(render.shape[:2]), m, shape, flags=cv2.INTER_NEAREST | cv2.WARP_INVERSE_MAP) > 0
    inside[:BORDER] = inside[-BORDER:] = False
    inside[:, :BORDER] = inside[:, -BORDER:] = False
    both = merged[inside], light[inside]
    scale = (both[0] * both[1]).sum() / (both[1] ** 2).sum()
    for _ in range(2):
        keep = np.abs(both[0] - scale * both[1]) < 0.05
        scale = (both[0] * both[1] * keep).sum() / (both[1] ** 2 * keep).sum()
    return encode(np.clip(light * scale, 0, 1)), inside


for scene, (first, last) in SCENES.items():
    picture = os.path.join(out, f"{scene}.hdr")
    if not os.path.exists(picture):
        size = ["+W1320", "+H880", "+A0.2", "+AM2", "+R2", "-D", "+FH", "Declare=U=0", "Declare=V=0"]
        subprocess.run(["povray", f"{scene}.pov", *size, f"+O{picture}"], cwd=os.path.join(root, "demo/scenes"), check=True, stderr=subprocess.DEVNULL)
    render = cv2.imread(picture, cv2.IMREAD_UNCHANGED).astype(np.float64)
    frames = [os.path.join(root, f"demo/frames/QM_{n:04d}.jpg") for n in range(first, last + 1)]
    for method in ("pyramid", "depth", "mixed"):
        file = os.path.join(out, f"{scene}-{method}.png")
        subprocess.run([os.path.join(root, "bin/rhizome"), "merge", *frames, "--as", "focus", "--depth", "16", "--set", f"merge.method={method}", "--out", file], check=True, stdout=subprocess.DEVNULL)
        codes = cv2.imread(file, cv2.IMREAD_UNCHANGED)[..., :3] / 65535.0
        truth, inside = laid(render, decode(codes))
        off, grey = codes - truth, smooth(truth.mean(2), 1)
        edge = (np.abs(cv2.Sobel(grey, -1, 1, 0)) + np.abs(cv2.Sobel(grey, -1, 0, 1)) > 0.05).astype(np.uint8)
        even, near = inside & (cv2.dilate(edge, np.ones((9, 9))) == 0), cv2.dilate(edge, np.ones((61, 61))) > 0
        band = smooth(off.mean(2), 1.5) - smooth(off.mean(2), 12)
        rms = lambda where: 255 * np.sqrt((band[where] ** 2).mean())
        print(f"{scene}, {method}: {-10 * np.log10((off[inside] ** 2).mean()):.2f} dB; smooth parts near edges {rms(even & near):.2f}, far from them {rms(even & ~near):.2f} codes of 255", flush=True)
