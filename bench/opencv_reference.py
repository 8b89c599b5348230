"""The reference: bare OpenCV programs that do the same work; the first argument is pack, unpack or flip."""

import sys

import cv2

LEVEL = [cv2.IMWRITE_PNG_COMPRESSION, 1]


def pack(out: str, *sources: str) -> None:
    planes = [cv2.imread(source, cv2.IMREAD_UNCHANGED) for source in sources]
    cv2.imwrite(out, cv2.merge(planes[::-1]), LEVEL)


def unpack(source: str, *outs: str) -> None:
    for out, plane in zip(outs, cv2.split(cv2.imread(source, cv2.IMREAD_UNCHANGED))[::-1], strict=True):
        cv2.imwrite(out, plane, LEVEL)


def flip(source: str, out: str) -> None:
    picture = cv2.imread(source, cv2.IMREAD_UNCHANGED)
    picture[:, :, 1] = 255 - picture[:, :, 1]
    cv2.imwrite(out, picture, LEVEL)


if __name__ == "__main__":
    {"pack": pack, "unpack": unpack, "flip": flip}[sys.argv[1]](*sys.argv[2:])
