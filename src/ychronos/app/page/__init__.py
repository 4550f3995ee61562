"""The page: the chart as it is printed."""
