"""Lynxbill: is the gain of a PC upgrade real, and what did it cost?"""

__version__ = "0.1.0"
