"""The demo sign-in: known to everybody, so offered only in demo mode on the loopback address."""

DEMO_SHOP = "Officina Valbruna"
DEMO_USERNAME = "valbruna"
DEMO_PASSWORD = "market-van-round"
