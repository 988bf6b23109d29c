"""Numbers from outside: computed with general-purpose libraries, once, by ``make_golden.py`` beside this file.

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

# 32 intervals, ms, clock and hand of about 7 and 6: mean and SD by numpy 2.4.6. By moments (lag-one
# autocovariance, 1/N) hand 6.4092 and clock 7.1116; by maximum likelihood, statsmodels 0.15.0,
# ARIMA(intervals, order=(0, 0, 1), trend='c'): hand² = −θσ², clock² = (1 + θ)²σ².
SET_B_MS = [
    495.4, 487.3, 506.4, 505.0, 514.8, 515.6, 491.5, 510.8, 509.8, 505.1, 521.3, 484.4, 502.2, 521.1, 494.8, 498.2,
    504.0, 500.7, 485.8, 511.6, 486.8, 515.1, 501.3, 512.8, 503.8, 524.5, 477.8, 503.7, 495.2, 494.6, 495.3, 513.7,
]  # fmt: skip
SET_B_ML_CLOCK_MS, SET_B_ML_HAND_MS = 7.7112, 5.9868
SET_B_MOMENT_CLOCK_MS, SET_B_MOMENT_HAND_MS = 7.1116, 6.4092

# 13 notes of a figure (beat, last sixteenth, every other beat), t = 975 + 510 q + error: the slope through
# all of them is 509.47135 (scipy's linregress), through the notes on the beat 509.9; the sixteenths
# then lie 18.7583 ms early. Fitting all notes smears the rhythm into the tempo.
SET_R_BEATS = [0, 1, 1.75, 2, 3, 3.75, 4, 5, 5.75, 6, 7, 7.75, 8]
SET_R_ERROR_MS = [2, -3, -18, 1, 4, -21, -2, 3, -16, 0, -4, -19, 2]
SET_R_BEAT_SLOPE_MS, SET_R_SIXTEENTHS_MS = 509.9, -18.7583

# Asynchronies under linear correction: variance and lag-one covariance, closed forms (Vorberg &
# Schulze 2002, from memory), clock 10 and hand 6 ms, for alpha .3 and .6.
CORRECTED = {0.3: (238.43, 130.90), 0.6: (170.48, 32.19)}

# Taps about ref = 2.0 + 0.5 k, k = 0..15, errors in ms with number 5 left out, and one extra tap at 4.75 s;
# mir_eval 0.8.2: util.match_events within 50 ms pairs 14, within 100 ms 15 (number 10 is 90 ms early).
TAPS_ERROR_MS = [-31, -28, -22, -35, -30, None, -27, -40, -29, -25, -90, -33, -21, -30, -26, -28]
