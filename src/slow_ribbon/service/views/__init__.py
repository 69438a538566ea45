"""What the window is shown of a job and of what follows from it, as plain data that is written as it is.

Lengths go out to a ten-thousandth of a millimetre, and what is only drawn to a tenth: finer than any saw or screen, and a fraction of
what else would travel.
"""
