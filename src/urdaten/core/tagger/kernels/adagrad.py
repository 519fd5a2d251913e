"""Minibatch steps of AdaGrad (Duchi, Hazan and Singer 2011) with proximal L1 and L2, over sparse rows.

A batch is cut into two shards of sentences whose gradients are found side by side; then the rows of weights that it
names are changed side by side. Shards are a property of the method and parts only say who works on what, so the
number of threads never changes a result. The parts meet between the stages of a batch.

A row is pulled towards zero when a batch names it, for all the steps since the last one that did. Weights are used as
their average over the steps of an epoch (Polyak and Juditsky 1992): `moved` holds every change times the steps that
were done before it, so the average after n steps is weights − moved / n.
"""

from __future__ import annotations

from typing import NamedTuple

import numpy as np

from urdaten.core.arrays import Floats, Ints
from urdaten.core.jit import kernel
from urdaten.core.tagger.kernels.gradient import block_gradient
from urdaten.core.tagger.kernels.kinds import Chain, Codes, Columns, Slopes
from urdaten.core.tagger.kernels.meet import meet
from urdaten.core.tagger.kernels.scores import WINDOW, add_windows, take_windows

SHARDS = 2
_LEAST = 1e-6


@kernel
def _add(source: Floats, target: Floats) -> None:
    for j in range(len(source)):
        target[j] += source[j]


class State(NamedTuple):
    """Weights, squares of gradients and changes (see above), in this order along the axis of three.

    forms (n_attributes, 3, REACH · L) · tokens (n_features, 3, L) · start (3, opening) · dense (3, closing, opening) ·
    step (3, n_moves); form_last and token_last say up to which step a row was pulled.
    """

    forms: Floats
    tokens: Floats
    start: Floats
    dense: Floats
    step: Floats
    form_last: Ints
    token_last: Ints


class Pace(NamedTuple):
    """Step size and penalties of one step."""

    rate: float
    l1: float
    l2: float


class Shared(NamedTuple):
    """Room that all parts work in: scores and errors of a batch's forms, errors of its tokens by shard and row, gradients
    of moves and losses by shard, and the arrivals at the meeting place."""

    form_scores: Floats
    form_error: Floats
    error: Floats
    start: Floats
    dense: Floats
    step: Floats
    loss: Floats
    arrivals: Ints


class Plan(NamedTuple):
    """Room for what is noted of a batch. `mark`, `form_slot` and `token_slot` are −1 between batches.

    counts are the numbers of distinct forms, of rows that forms touch and of rows that tokens touch. forms lists the
    distinct forms; rows of weights that they name are touched, row n by the forms held[begins[n]:begins[n + 1]];
    likewise for tokens, whose members are rows of errors.
    """

    counts: Ints
    mark: Ints
    forms: Ints
    form_slot: Ints
    form_touched: Ints
    form_begins: Ints
    form_held: Ints
    token_at: Ints
    token_row: Ints
    token_slot: Ints
    token_touched: Ints
    token_begins: Ints
    token_held: Ints


@kernel
def _invert(
    members: Ints, names: Ints, count: int, pointer: Ints, column: Ints,
    slot: Ints, touched: Ints, begins: Ints, held: Ints,
) -> int:  # fmt: skip
    """Which rows the members have, and which members, by their names, each row has; how many rows they are."""
    found = 0
    begins[0] = 0
    for i in range(count):
        for n in range(pointer[members[i]], pointer[members[i] + 1]):
            a = column[n]
            if slot[a] < 0:
                slot[a] = found
                touched[found] = a
                found += 1
                begins[found] = 0
            begins[slot[a] + 1] += 1
    for n in range(found):
        begins[n + 1] += begins[n]
    for n in range(found):
        # From here on the next free place of the row.
        slot[touched[n]] = begins[n]
    for i in range(count):
        for n in range(pointer[members[i]], pointer[members[i] + 1]):
            a = column[n]
            held[slot[a]] = names[i]
            slot[a] += 1
    for n in range(found):
        slot[touched[n]] = -1
    return found


@kernel
def _plan_forms(sentences: Ints, columns: Columns, plan: Plan) -> None:
    """Note the forms around the sentences, and the rows of weights that they name. Marks of forms stay set."""
    distinct = 0
    for s in sentences:
        for p in range(columns.first[s] - WINDOW, columns.first[s] + columns.length[s] + WINDOW):
            form = columns.word[p]
            if plan.mark[form] < 0:
                plan.mark[form] = distinct
                plan.forms[distinct] = form
                distinct += 1
    plan.counts[0] = distinct
    plan.counts[1] = _invert(
        plan.forms, np.arange(distinct), distinct, columns.form_pointer, columns.form_column,
        plan.form_slot, plan.form_touched, plan.form_begins, plan.form_held,
    )  # fmt: skip


@kernel
def _plan_tokens(sentences: Ints, columns: Columns, plan: Plan, size: int) -> None:
    """Note the rows of weights that the tokens of the sentences name.

    Sentence i is of shard i % SHARDS and has its errors there, in order, as shard_gradient lays them out; a shard has
    `size` rows.
    """
    tokens = 0
    for k in range(SHARDS):
        row = k * size + 2 * WINDOW
        for i in range(k, len(sentences), SHARDS):
            s = sentences[i]
            for t in range(columns.length[s]):
                plan.token_at[tokens] = columns.first[s] + t
                plan.token_row[tokens] = row + t
                tokens += 1
            row += columns.length[s] + WINDOW
    plan.counts[2] = _invert(
        plan.token_at, plan.token_row, tokens, columns.token_pointer, columns.token_column,
        plan.token_slot, plan.token_touched, plan.token_begins, plan.token_held,
    )  # fmt: skip


@kernel
def shard_gradient(
    sentences: Ints, shard: int, columns: Columns, state: State, codes: Codes, mark: Ints, distinct: int,
    form_scores: Floats, form_error: Floats, error: Floats, slopes: Slopes,
) -> float:  # fmt: skip
    """Loss of every SHARDS-th sentence from `shard` on; they go by falling length.

    form_scores are those of the batch's forms, by their marks; form_error (distinct,) and `error` receive derivatives, the
    latter by token, one sentence after another with WINDOW rows before the first, between two and after the last.
    """
    count = (len(sentences) - shard + SHARDS - 1) // SHARDS
    labels = error.shape[1]
    form_error[:distinct] = 0
    slopes.start[:] = 0
    slopes.dense[:] = 0
    slopes.step[:] = 0
    if count <= 0:
        return 0.0
    own_length = np.empty(count, dtype=np.int64)
    own_first = np.empty(count, dtype=np.int64)
    own_weight = np.empty(count, dtype=columns.weight.dtype)
    size = WINDOW
    for i in range(count):
        s = sentences[shard + i * SHARDS]
        own_first[i] = size + WINDOW
        own_length[i] = columns.length[s]
        own_weight[i] = columns.weight[s]
        size += columns.length[s] + WINDOW
    own_word = np.empty(size, dtype=np.int64)
    own_gold = np.zeros(size + 2 * WINDOW, dtype=columns.gold.dtype)
    scores = np.zeros((size + 2 * WINDOW, labels), dtype=form_scores.dtype)
    at = 0
    for i in range(count):
        s = sentences[shard + i * SHARDS]
        low, end = columns.first[s], columns.first[s] + columns.length[s]
        for p in range(low - WINDOW, end + (WINDOW if i == count - 1 else 0)):
            own_word[at] = mark[columns.word[p]]
            if low <= p < end:
                own_gold[at + WINDOW] = columns.gold[p]
                target = scores[at + WINDOW]
                for n in range(columns.token_pointer[p], columns.token_pointer[p + 1]):
                    source = state.tokens[columns.token_column[n], 0]
                    for j in range(labels):
                        target[j] += source[j]
            at += 1
    add_windows(form_scores, own_word, scores)
    own_error = error[: size + 2 * WINDOW]
    own_error[:] = 0
    chain = Chain(state.start[0], state.dense[0], state.step[0], codes.closing, codes.runs, codes.moves)
    loss = block_gradient(
        scores, own_first, own_length, own_gold, own_weight, columns.masks, chain, own_error, slopes
    )
    take_windows(own_error, own_word, form_error)
    return loss


@kernel
def _change(row: Floats, slope: Floats, steps: int, when: int, pace: Pace) -> None:
    """One step of a row (3, width), and what the penalties take over the steps since its last one."""
    weight, square, moved = row[0], row[1], row[2]
    one = weight.dtype.type
    rate, least, at = one(pace.rate), one(_LEAST), one(when)
    shrink, cut = rate * one(pace.l2 * steps), rate * one(pace.l1 * steps)
    for j in range(len(slope)):
        square[j] += slope[j] * slope[j]
        root = np.sqrt(square[j]) + least
        # With η = rate / root: w − ηg, η · l1 of it cut off towards zero, by 1 + η · l2.
        value = weight[j] * root - rate * slope[j]
        size = max(abs(value) - cut, one(0)) / (root + shrink)
        value = size if value > 0 else -size
        moved[j] += (value - weight[j]) * at
        weight[j] = value


@kernel
def _change_rows(
    rows: Floats, last: Ints, touched: Ints, count: int, begins: Ints, held: Ints, error: Floats,
    part: int, parts: int, now: int, begun: int, pace: Pace,
) -> None:  # fmt: skip
    """One step of the touched rows that fall to this part: a run of them with as many members as any other part's."""
    total = begins[count]
    slope = np.empty(rows.shape[2], dtype=rows.dtype)
    for n in range(count):
        if not total * part <= begins[n] * parts < total * (part + 1):
            continue
        slope[:] = 0
        for m in range(begins[n], begins[n + 1]):
            _add(error[held[m]], slope)
        a = touched[n]
        _change(rows[a], slope, now - last[a], now - 1 - begun, pace)
        last[a] = now


@kernel
def descend(
    order: Ints, batch: int, part: int, parts: int, now: int, begun: int,
    columns: Columns, state: State, codes: Codes, shared: Shared, plans: tuple[Plan, Plan], pace: Pace,
) -> None:  # fmt: skip
    """A step for each batch of sentences, which go by falling length within it.

    All parts are to run this at once. `now` counts the steps done, `begun` those that had been done when the epoch
    began. Losses are added to shared.loss. Plans take turns, so that a part can plan while another still works by the
    plan before.
    """
    times = 0
    size = shared.error.shape[1]
    every_error = shared.error.reshape((SHARDS * size, shared.error.shape[2]))
    for at in range(0, len(order), batch):
        now += 1
        sentences = order[at : at + batch]
        plan = plans[now % 2]
        if part == 0:
            _plan_forms(sentences, columns, plan)
        if part == parts - 1:
            _plan_tokens(sentences, columns, plan, size)
        times = meet(shared.arrivals, parts, times)
        distinct, form_rows, token_rows = plan.counts[0], plan.counts[1], plan.counts[2]
        for i in range(part, distinct, parts):
            shared.form_scores[i] = 0
            for n in range(columns.form_pointer[plan.forms[i]], columns.form_pointer[plan.forms[i] + 1]):
                _add(state.forms[columns.form_column[n], 0], shared.form_scores[i])
        times = meet(shared.arrivals, parts, times)
        for k in range(part, SHARDS, parts):
            shared.loss[k] += shard_gradient(
                sentences, k, columns, state, codes, plan.mark, distinct, shared.form_scores,
                shared.form_error[k], shared.error[k],
                Slopes(shared.start[k], shared.dense[k], shared.step[k]),
            )  # fmt: skip
        times = meet(shared.arrivals, parts, times)
        if part == 0:
            for i in range(distinct):
                plan.mark[plan.forms[i]] = -1
        for i in range(part, distinct, parts):
            _add(shared.form_error[1, i], shared.form_error[0, i])
        times = meet(shared.arrivals, parts, times)
        _change_rows(
            state.forms, state.form_last, plan.form_touched, form_rows, plan.form_begins, plan.form_held,
            shared.form_error[0], part, parts, now, begun, pace,
        )  # fmt: skip
        _change_rows(
            state.tokens, state.token_last, plan.token_touched, token_rows, plan.token_begins, plan.token_held,
            every_error, part, parts, now, begun, pace,
        )  # fmt: skip
        if part == 0:
            when = now - 1 - begun
            _change(state.start, shared.start[0] + shared.start[1], 1, when, pace)
            _change(state.step, shared.step[0] + shared.step[1], 1, when, pace)
            dense = (shared.dense[0] + shared.dense[1]).ravel()
            _change(state.dense.reshape((3, len(dense))), dense, 1, when, pace)


@kernel
def penalise_all(rows: Floats, last: Ints, now: int, begun: int, pace: Pace) -> None:
    """Bring every row up to step `now`."""
    none = np.zeros(rows.shape[2], dtype=rows.dtype)
    for a in range(len(rows)):
        if last[a] < now:
            _change(rows[a], none, now - last[a], now - begun, pace)
            last[a] = now
