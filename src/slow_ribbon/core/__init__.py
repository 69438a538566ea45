"""The rules of the job and all of its computation, without interface, web or database.

All lengths are millimetres in float64; angles are degrees in documents and messages and
radians inside functions, as each docstring says. Z is up.
"""
