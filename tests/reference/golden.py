"""Numbers from outside: computed with general-purpose libraries, once, by the calls named here.

Tap series are made up for the purpose; what is checked is that our code and the libraries agree.
"""

# 17 tap times, ms, nominal interval 500. The slope and its standard error are those of
# statsmodels 0.15.0: GLS(a, [1, k], sigma = 100·min(j, k) + 36·I) with a = tap − 500 k
# (bse / sqrt(scale)), and, by another road, UnobservedComponents(a, 'lldtrend').smooth([36, 100]).
SET_A_MS = [
    0, 503.2, 1009.8, 1506.1, 2016.9, 2518.4, 3029.3, 3527.0, 4041.2,
    4539.8, 5052.1, 5550.3, 6062.7, 6571.9, 7069.5, 7583.1, 8081.6,
]  # fmt: skip
SET_A_NOMINAL_MS = 500.0
SET_A_CLOCK_MS, SET_A_HAND_MS = 10.0, 6.0
SET_A_SLOPE_MS, SET_A_SLOPE_SE_MS = 5.19917475, 2.54510195
# The same with taps 5 and 9 (from 0) missing.
SET_A_MISSING = (5, 9)
SET_A_MISSING_SLOPE_MS, SET_A_MISSING_SLOPE_SE_MS = 5.1990866, 2.5451020

# 20 asynchronies, ms, beat 500; mean and SD by numpy 2.4.6, the t interval by scipy 1.17.1.
SET_C_MS = [-31, -28, -22, -35, -30, -18, -27, -40, -29, -25, -36, -33, -21, -30, -26, -28, -24, -19, -33, -37]
SET_C_MEAN_MS, SET_C_SD_MS = -28.6, 6.0471829

# Standard error of the slope over m intervals with clock and hand SD (ms): the closed form
# 1/SE² = (1/sc²)[m − sinh(κm/2)/(sinh(κ/2)·cosh(κ(m+1)/2))], κ = arcosh(1 + sc²/2sm²),
# derived for the Wing–Kristofferson model and equal to the matrix form to five decimals.
SLOPE_SE = {
    (4, 10, 6): 5.39200,
    (8, 10, 6): 3.66668,
    (16, 10, 6): 2.54510,
    (32, 10, 6): 1.78350,
    (16, 15, 8): 3.80536,
    (16, 5, 10): 1.39326,
}

# Note values by music21 10.5.1: dotted quarter = 90 makes a quarter 135, so 0.444444 s.
DOTTED_QUARTER_90_QUARTER_S = 0.444444
