"""What every drawing is made of: scales with round ticks in the reader's way, marks that say their value, a table behind.

Here: kit.py (scales, marks, pictures). How a picture is put on a page: templates/shared/picture.html; what the
pointer and the arrow keys do: static/pictures.js. Not here: what is drawn; that stands with each page, e.g. worth/course.py.
"""
