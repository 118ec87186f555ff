"""Tests of hoist: python3 -m unittest"""

import unittest

from hoist import play


def request(seed, first, second):
    def seat(number, knobs):
        return {"agent": "crane", "knobs": knobs, "seed": seed * 10 + number, "person": 1, "matches_before": 0}

    return {
        "seed": seed,
        "rules": {"crates": 10, "wind": 0.3},
        "level": {"name": "barge", "knobs": {}},
        "seats": [seat(0, first), seat(1, second)],
    }


FAST, SLOW = {"pace": 0.9, "care": 0.1}, {"pace": 0.3, "care": 0.9}


class Hoist(unittest.TestCase):
    def test_equal_seeds_give_equal_matches(self):
        self.assertEqual(play(request(3, FAST, SLOW)), play(request(3, FAST, SLOW)))
        self.assertNotEqual(play(request(3, FAST, SLOW)), play(request(4, FAST, SLOW)))

    def test_the_first_to_land_its_crates_wins(self):
        answer = play(request(3, FAST, SLOW))
        self.assertEqual(max(answer["scores"]), 10)
        self.assertEqual(answer["changes"][-1]["scores"], answer["scores"])
        self.assertFalse(answer["cut_short"])

    def test_pace_wins_and_care_drops_less(self):
        answers = [play(request(seed, FAST, SLOW)) for seed in range(100)]
        self.assertGreater(sum(answer["scores"][0] == 10 for answer in answers), 90)
        drops = [sum(answer["measures"]["drops"][seat] for answer in answers) for seat in range(2)]
        self.assertGreater(drops[0], drops[1])


if __name__ == "__main__":
    unittest.main()
