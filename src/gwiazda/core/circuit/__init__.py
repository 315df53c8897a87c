"""Networks, their elements and operating points."""
