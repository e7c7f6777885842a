"""Simulated outside services that ship with Bolsa, reached through the same open protocols as real ones.

Here: the bank (OAuth 2.0 consent, OFX 2.2 download). Each stand-in is a folder: state.py what it knows, wire.py how it speaks.
Not here: anything Bolsa itself needs to run. Clock, data and port come from outside.
"""
