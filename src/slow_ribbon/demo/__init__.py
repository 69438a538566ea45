"""The demo: an invented ferry house, built through the public core."""

from slow_ribbon.demo.ferry_house import DEMO_ID, demo_files, ferry_house

__all__ = ["DEMO_ID", "demo_files", "ferry_house"]
