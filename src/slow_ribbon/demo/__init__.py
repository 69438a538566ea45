"""The demo: an invented ferry house, built through the public core."""

from slow_ribbon.demo.ferry_house import DEMO_ID, demo_files, ferry_house
from slow_ribbon.demo.hall_drawing import HALL_ID, hall_drawing, hall_file, hall_job

__all__ = ["DEMO_ID", "HALL_ID", "demo_files", "ferry_house", "hall_drawing", "hall_file", "hall_job"]
