"""What to give up for how many hours: options of each shot, the frontier between hours and error, the best plan.

`levers.py` says which settings there are to choose from, `options.py` what each costs and gives, `best_plan.py`
chooses, `explain.py` says why. Pure: pictures have been looked at before (`pemlo.core.appraisal.shot_appearance`).
"""
