"""Pages about the road: oil, road test, temperatures, break-in, the leaflet."""
