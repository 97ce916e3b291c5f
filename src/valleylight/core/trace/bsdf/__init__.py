"""How surfaces scatter light, and how it is drawn from them."""
