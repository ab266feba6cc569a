"""From cost and machines to the answer: hours needed, hours there are, finish, chance, and the sentence."""
