"""What a frame costs: the model, its priors, the fit to trials, draws from it, and which trial to run next.

`fit.py` is the way in; `frame_model.py` holds the formula; `priors.py` the one table of what is believed before
anything is timed.
"""
