"""A household lived at random, beside a plain model of it: what falsifies a figure in some order is found by going on for long.

Begin with living.py: it takes a seed, lets a person (person.py) do one thing after the other through the services, and compares
after each step what the services say with what the model (model.py) reckons from the rows alone, with what the step promised, and
with all that `bolsa check` asks. It runs short in the tests and long in `bolsa bench --soak`.
"""
