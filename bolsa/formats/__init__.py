"""Readers of open file formats: bytes in, core values out, or UnreadableFile with the line and what was found.

Here: OFX 1.x and 2.x, camt, MT940, CSV, and what they share (text decoding, dates).
Not here: which account a statement belongs to, what is already known: services decide that.
A reader accepts what banks really send; each tolerance is marked WORKAROUND and has a test.

Read sniff.py first, then ofx.py.
"""
