"""Questions of readings: at places, along lines, cut, at flags and gauges; the reading line and what is drawn."""
