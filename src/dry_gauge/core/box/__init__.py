"""Walk-in boxes: pull-down, food at risk, controls. Pure."""
