"""The updates of PPO in a Python tensor library, for the ratio in docs/performance.md.

The same passes as `bare_updates` of training.rs: two networks of 15 inputs and layers of 64 and 64, minibatches of 256, four
epochs; forwards, backwards, gradients shortened to 0.5, a step of Adam. Prints decisions a second, the median of seven rounds.

    python3 -m pip install torch
    python3 crates/inkpot-lab/benches/update.py
"""

import statistics
import time

import torch

STEPS, BATCH, EPOCHS, ROUNDS = 81_920, 256, 4, 7


def network():
    layers = [torch.nn.Linear(15, 64), torch.nn.Tanh(), torch.nn.Linear(64, 64), torch.nn.Tanh(), torch.nn.Linear(64, 1)]
    return torch.nn.Sequential(*layers)


def decisions_a_second(threads):
    torch.set_num_threads(threads)
    torch.manual_seed(4)
    networks = [network(), network()]
    steppers = [torch.optim.Adam(own.parameters(), lr=1e-6) for own in networks]
    observed = torch.randn(BATCH, 15)
    seen = []
    for _ in range(ROUNDS):
        begun = time.perf_counter()
        for _ in range(EPOCHS * STEPS // BATCH):
            for own, stepper in zip(networks, steppers):
                stepper.zero_grad()
                given = own(observed)
                (0.5 * given.square().mean()).backward()
                torch.nn.utils.clip_grad_norm_(own.parameters(), 0.5)
                stepper.step()
        seen.append(STEPS / (time.perf_counter() - begun))
    return statistics.median(seen)


for threads in (1, 2):
    print(f"{threads} thread(s): {decisions_a_second(threads):,.0f} decisions a second")
