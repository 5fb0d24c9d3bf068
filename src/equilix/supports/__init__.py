"""The supports, a folder each: settings and mechanics stand on core, text on present, window on desktop."""
