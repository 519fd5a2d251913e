"""The kernel that finds which entities a value could belong to, and sees how they stand to each other."""

from __future__ import annotations

from typing import Any

import numpy as np

from urdaten.core.arrays import Bools, Ints
from urdaten.core.jit import kernel

# A value could belong to so many entities, the nearest ones.
MOST_ENTITIES = 6
# How the slots of a candidate are numbered: sizes of what each may hold (see layout).
PLACE_SIZES = (14, 18, 6, 5, 15, 3, 6, 4, 4, 3)
NONE_SIZES = (15, 6, 2)


@kernel
def candidates(
    value_first: Ints,
    value_last: Ints,
    value_sentence: Ints,
    value_kind: Ints,
    value_entity: Ints,
    value_of_text: Ints,
    mention_first: Ints,
    mention_last: Ints,
    mention_sentence: Ints,
    mention_entity: Ints,
    mention_of_text: Ints,
    entities_of_text: Ints,
    entity_first: Ints,
    entity_mentions: Ints,
    region: Ints,
    sentence_first: Ints,
    mark: Ints,
    pronoun: Bools,
    out_value: Ints,
    out_entity: Ints,
    out_mention: Ints,
    out_relation: Ints,
    out_place: Ints,
) -> Any:
    """Candidates of all values, each value's after each other, the last of each for no entity; returns how many.

    Columns of tokens: region (number of what an anchor and its values must share), mark (1 comma, 2 stop, 3 bar of a table, 0
    else); of sentences: its first token, and whether a pronoun stands in it. value_entity is the entity of which the value is a
    mention itself, or -1. Of texts: value_of_text and mention_of_text have the first of each and an end, entities_of_text how
    many. out_place has a code for each slot, as PLACE_SIZES or, for no entity, NONE_SIZES has them.
    """
    count = 0
    best = np.empty(4096, dtype=np.int64)
    cost = np.empty(4096, dtype=np.int64)
    own = np.empty(4096, dtype=np.int64)
    taken = np.empty(MOST_ENTITIES, dtype=np.int64)
    for text in range(len(value_of_text) - 1):
        total = entities_of_text[text]
        many = 0 if total <= 1 else (1 if total == 2 else (2 if total == 3 else (3 if total <= 5 else 4)))
        for value in range(value_of_text[text], value_of_text[text + 1]):
            first, last, sentence = value_first[value], value_last[value], value_sentence[value]
            seen = 0
            here = False
            for m in range(mention_of_text[text], mention_of_text[text + 1]):
                entity = mention_entity[m]
                if entity == value_entity[value]:
                    continue
                if region[mention_first[m]] != region[first]:
                    continue
                apart = sentence - mention_sentence[m]
                if apart == 0:
                    here = True
                    far = first - mention_last[m] if mention_first[m] < first else mention_first[m] - last
                    price = 2 * max(far, 0) + (0 if mention_first[m] < first else 1)
                elif apart > 0:
                    price = 1_000 * apart + min(first - mention_last[m], 900)
                else:
                    price = 3_000 * -apart + min(mention_first[m] - last, 900)
                at = -1
                for k in range(seen):
                    if own[k] == entity:
                        at = k
                        break
                if at < 0:
                    if seen == len(best):
                        continue
                    at = seen
                    own[at], cost[at], best[at] = entity, price, m
                    seen += 1
                elif price < cost[at]:
                    cost[at], best[at] = price, m
            used = 0
            for _ in range(min(seen, MOST_ENTITIES)):
                least = -1
                for k in range(seen):
                    if cost[k] >= 0 and (least < 0 or cost[k] < cost[least]):
                        least = k
                taken[used] = least
                used += 1
                cost[least] = -1 - cost[least]
            nearest = 14
            for rank in range(used):
                k = taken[rank]
                m, entity = best[k], own[k]
                start, end = mention_first[m], mention_last[m]
                apart = sentence - mention_sentence[m]
                before = start < first
                if apart == 0:
                    if before:
                        gap = first - end
                        relation = (
                            0
                            if gap <= 1
                            else (1 if gap <= 3 else (2 if gap <= 6 else (3 if gap <= 10 else 4)))
                        )
                        coarse = 0 if gap <= 6 else 1
                    else:
                        gap = start - last
                        relation = 5 if gap <= 1 else (6 if gap <= 3 else (7 if gap <= 6 else 8))
                        coarse = 2 if gap <= 3 else 3
                    side = 0 if before else 1
                    place = 0
                elif apart > 0:
                    relation = 9 if apart == 1 else (10 if apart == 2 else 11)
                    coarse, side, place = 4, 2, 1
                else:
                    relation = 12 if apart == -1 else 13
                    coarse, side, place = 4, 2, 2
                if rank == 0:
                    nearest = relation
                low, high = (end, first) if before else (last, start)
                others = 0
                for n in range(mention_of_text[text], mention_of_text[text + 1]):
                    if mention_entity[n] != entity and low <= mention_first[n] and mention_last[n] <= high:
                        others += 1
                alike = 0
                broken = 4
                if apart == 0:
                    broken = 0
                    for token in range(low, high):
                        if mark[token] == 3:
                            broken = 3
                        elif mark[token] == 2 and broken < 2:
                            broken = 2
                        elif mark[token] == 1 and broken < 1:
                            broken = 1
                    for w in range(value_of_text[text], value_of_text[text + 1]):
                        like = w != value and value_kind[w] == value_kind[value]
                        if like and low <= value_first[w] and value_last[w] <= high:
                            alike += 1
                out_value[count] = value
                out_entity[count] = entity
                out_mention[count] = m
                out_relation[count] = coarse
                out_place[count, 0] = relation
                out_place[count, 1] = min(rank, 5) * 3 + side
                out_place[count, 2] = min(others, 2) + (0 if apart == 0 else 3)
                out_place[count, 3] = broken
                out_place[count, 4] = many * 3 + place
                out_place[count, 5] = 0 if apart <= 0 or here else (1 if pronoun[sentence] else 2)
                out_place[count, 6] = min(alike, 2) + (0 if before else 3)
                out_place[count, 7] = (2 if apart == 0 else 0) + (
                    1 if sentence_first[mention_sentence[m]] >= start - 1 else 0
                )
                out_place[count, 8] = (2 if apart == 0 else 0) + (1 if entity_first[text] == entity else 0)
                out_place[count, 9] = min(entity_mentions[entity], 3) - 1
                count += 1
            out_value[count] = value
            out_entity[count] = -1
            out_mention[count] = -1
            out_relation[count] = -1
            out_place[count, 0] = nearest
            out_place[count, 1] = 0 if total == 0 else many + 1
            out_place[count, 2] = 1 if here else 0
            count += 1
    return count
