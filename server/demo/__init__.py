"""The demo systems, and the stand-ins behind them."""
