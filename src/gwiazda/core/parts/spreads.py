"""How far things stray from what the catalogue says of them, one sigma: house values, of the natural logarithm unless said otherwise.

Flux of a bag 20 % and 10 % between lamps of it, glazing 15 %, reflectance of a lining .03 (normal), capacity 15 %; a part that the user has measured
strays by a quarter of it. A coat's density and a plastic's are in ``materials``, a forward voltage's is its family's.
"""

BAG, BETWEEN, GLAZING, LINING, CAPACITY = 0.20, 0.10, 0.15, 0.03, 0.15
COUPLED = 0.25  # how a fibre is seated on its lamp and how its ends are cut
MEASURED = 0.25
