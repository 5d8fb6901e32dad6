"""The demo's lock keeper: a heron in cap, scarf and long coat, who holds a lantern up against the dusk."""

import numpy as np

from plain_stride.demo.draw import Thing, box, curve, ring


def keeper() -> list[Thing]:
    """The keeper's things, near to far."""
    return [lantern(), sleeves(), scarf(), head(), coat(), boots()]


def lantern() -> Thing:
    t = Thing("Lantern", "near", True)
    x = 139.0
    t.outer((x - 5.6, 83), (x - 6.4, 74), (x, 65.6), (x + 6.4, 74), (x + 5.6, 83), pressure=0.34)
    t.edge((x - 3.4, 83), (x - 2.6, 78.8), (x + 2.6, 78.8), (x + 3.4, 83), pressure=0.4)
    roof = t.outer((x - 11.4, 90.4), (x - 7.6, 86.0), (x - 4.6, 82.8), (x + 4.6, 82.8), (x + 7.6, 86.0),
                   (x + 11.4, 90.4), pressure=0.5)  # fmt: skip
    t.edge((x - 12.4, 90.6), (x + 12.4, 90.6), pressure=0.6)
    t.edge((x - 9.2, 91), (x - 7.6, 111), pressure=0.45)
    t.edge((x + 9.2, 91), (x + 7.6, 111), pressure=0.56)
    t.edge((x - 3.2, 91), (x - 2.7, 111), role="inner", pressure=0.35)
    t.edge((x + 3.2, 91), (x + 2.7, 111), role="inner", pressure=0.35)
    t.edge((x - 10.2, 115.4), (x - 10.2, 111.2), (x + 10.2, 111.2), (x + 10.2, 115.4), pressure=0.5)
    t.edge((x - 10.8, 115.6), (x + 10.8, 115.6), pressure=0.62)
    t.edge((x - 8.5, 101), (x + 8.5, 101), role="detail", pressure=0.35)
    flame = curve((x, 95.4), (x - 2.4, 100), (x - 2.8, 104.2), (x, 107.4), (x + 2.8, 104.2), (x + 2.6, 100), (x, 95.4))
    t.add(flame, "inner", "2", 0.5, "careful")
    t.detail((x, 101.4), (x - 0.9, 104), (x + 0.3, 106), pressure=0.3)
    t.edge((x, 107.6), (x, 110.8), role="detail", pressure=0.5)
    t.covers += [np.vstack([roof, [(x + 11.4, 90.6), (x - 11.4, 90.6)]]), box(x - 9.2, 90.4, x + 9.2, 111.2),
                 box(x - 10.2, 111, x + 10.2, 115.6), box(x - 3.2, 78.8, x + 3.2, 83)]  # fmt: skip
    t.blacks += [np.vstack([roof[8:-8], [(x + 10.0, 90.0), (x - 10.0, 90.0)]]), box(x - 9.6, 112.2, x + 9.6, 115.2)]
    t.crosses += [(x, 87, 2.2)]
    return t


def sleeves() -> Thing:
    """The arm that holds the lantern out, and the one that hangs with the crank of the paddles in its hand."""
    t = Thing("Sleeves", "near", True)
    upper = t.outer((94.2, 66.6), (103, 69.4), (114, 65.6), (126.4, 58.4), pressure=0.5)
    lower = t.outer((98.4, 82.4), (106, 83.2), (117.5, 76.6), (129.4, 67.2), pressure=0.68)
    cuff = t.outer((126.4, 58.4), (128.8, 62.4), (129.4, 67.2), pressure=0.5)
    t.cover(upper, cuff, lower[::-1])
    t.inner((122.6, 60.8), (125.2, 65), (125.6, 70.1))
    t.inner((103.2, 70.4), (106.6, 75.6), (105.0, 81.4), pressure=0.5)
    t.inner((106.6, 69.4), (109.2, 73.6), (108.6, 77.6), pressure=0.4)
    t.detail((113, 67.4), (114.6, 70.8), (114, 74))
    t.detail((99.6, 71.4), (101.6, 75), (101.4, 78.4))
    for n, (x, y) in enumerate(((124.2, 66.8), (123.2, 63.2))):
        t.add(ring(x, y, 0.75, 0.75), "detail", "2", 0.5 + 0.1 * n, "careful")
    # Wing feathers as fingers, closed round the bail.
    for mid, knuckle, tip, back, press in (
        ((136.6, 57.0), (143.8, 61.0), (144.2, 66.6), (139.8, 63.8), 0.46),
        ((136.2, 60.4), (141.6, 64.6), (141.4, 70.2), (137.0, 66.8), 0.5),
        ((134.2, 63.6), (138.2, 67.6), (137.2, 72.4), (132.6, 69.6), 0.56),
    ):
        root = (127.6, 58.9 + (mid[1] - 57.0) * 0.78)
        feather = t.outer(root, mid, knuckle, tip, back, (root[0] + 1.2, root[1] + 3.0), pressure=press)
        t.cover(feather)
    t.detail((132.4, 58.6), (137.6, 59.4), (141.8, 62.6), pressure=0.3)
    t.detail((131.8, 62.0), (135.6, 62.8), (139.2, 66.0), pressure=0.3)
    outer = t.outer((77.4, 68.4), (70.6, 76.6), (68.2, 87.4), (72.6, 97.4), pressure=0.66)
    under = t.outer((84.4, 77.2), (80.2, 84.6), (80.2, 91), (81.8, 95.6), pressure=0.5)
    end = t.outer((72.6, 97.4), (77.2, 98.2), (81.8, 95.6), pressure=0.5)
    t.cover(outer, end, under[::-1])
    t.inner((71.2, 93.4), (76.4, 94.6), (81, 92))
    t.inner((69.6, 84.4), (73.4, 86.8), (77.4, 86), pressure=0.5)
    t.detail((71.2, 79.6), (74, 82), (77.4, 81.6))
    hand = t.outer((73.8, 97.8), (74.4, 102.6), (78.4, 105), (81.6, 102), (81.2, 96.4), pressure=0.52)
    t.cover(hand)
    t.detail((76.4, 99.4), (76.8, 102), (77.8, 103.6))
    t.detail((79, 99.2), (79.2, 101.6), (79.6, 103.2))
    crank = [(77.0, 104.6), (79.4, 124.4), (92.6, 122.6), (92.2, 119.6), (82.0, 120.9), (80.0, 104.2)]
    t.edge(*crank, pressure=0.5)
    t.edge((92.8, 123.4), (92.0, 118.6), (95.6, 118.2), (96.2, 122.8), (92.8, 123.4), role="inner", pressure=0.5)
    t.covers += [np.array(crank), np.array([(92.8, 123.4), (92.0, 118.6), (95.6, 118.2), (96.2, 122.8)])]
    return t


def scarf() -> Thing:
    t = Thing("Scarf", "near", True)
    upper = t.outer((76.6, 57.4), (82.6, 61.8), (89.4, 62.2), (94.6, 58.2), pressure=0.5)
    lower = t.outer((74.8, 64.6), (81.6, 70), (90.8, 69.8), (96.8, 64.2), pressure=0.68)
    left = t.outer((76.6, 57.4), (74.2, 60.6), (74.8, 64.6), pressure=0.5)
    right = t.outer((94.6, 58.2), (97.2, 60.8), (96.8, 64.2), pressure=0.55)
    t.cover(upper, right, lower[::-1], left[::-1])
    for a, b, c in (((80.4, 60.6), (80.6, 64.8), (79.4, 68.4)), ((85.4, 62.2), (86.2, 66), (85.6, 70)),
                    ((90.6, 61.6), (92, 65), (92, 69))):  # fmt: skip
        t.inner(a, b, c, pressure=0.42)
    t.detail((76.6, 61), (82, 65), (88.6, 66), (95, 62.4))
    top = t.outer((75.6, 59.6), (66, 54.6), (55, 57.6), (45, 52.4), (33, 55), pressure=0.5)
    foot = t.outer((75.2, 64.4), (66.6, 61.2), (56, 65.2), (46.4, 60.8), (35.4, 63), pressure=0.64)
    end = t.edge((33, 55), (35.4, 63), pressure=0.4)
    t.cover(top, end, foot[::-1])
    for k in range(5):
        x, y = 33.0 + 0.55 * k, 55.2 + 1.9 * k
        t.add(curve((x, y), (x - 3.0, y + 0.4), (x - 6.2, y - 0.6 + 0.5 * k)), "inner", "2", 0.5, "fast")
    stripes = [curve((x, y0), (x + dx * 1.4, (y0 + y1) / 2), (x + dx, y1))
               for x, dx, y0, y1 in ((68.5, 1.0, 56.2, 61.7), (64.5, 1.0, 55.2, 61.7), (52.5, 0.8, 56.6, 64.0),
                                     (48.4, 0.9, 54.3, 61.7))]  # fmt: skip
    for stripe in stripes:
        t.add(stripe, "inner", "3", 0.4)
    for first, second in ((0, 1), (2, 3)):
        t.blacks.append(np.vstack([stripes[first], stripes[second][::-1]]))
    t.crosses += [(66.9, 58.8, 1.4), (50.8, 59.4, 1.4)]
    t.detail((72, 59.8), (64, 57.6), (57, 60), pressure=0.35)
    t.detail((47, 57), (42, 57.4), (38.5, 58.2), pressure=0.35)
    return t


def head() -> Thing:
    t = Thing("Heron", "near", True)
    crown = t.outer((79.4, 38.2), (78.4, 32.2), (84.0, 26.6), (93.4, 25.4), (101, 28.8), (107.2, 34.8), pressure=0.52)
    brim = t.outer((107.2, 34.8), (102.6, 36.6), (97, 36.0), (91.4, 34.4), pressure=0.66)
    band = t.outer((79.4, 38.2), (84.8, 36.8), (91.4, 34.4), pressure=0.55)
    t.cover(crown, brim, band[::-1])
    t.inner((82.4, 36.6), (83.6, 31.4), (90.2, 26.6), pressure=0.4)
    t.inner((91.4, 34.4), (96.4, 31.2), (102.4, 30.4), pressure=0.45)
    t.add(ring(91.2, 25.6, 1.5, 0.9), "detail", "2", 0.5, "careful")
    t.detail((86.4, 33.4), (89, 30.4), (92.8, 28.6))
    t.detail((95.4, 34.2), (99, 33.2), (103.2, 33.8))
    beak_top = t.outer((98.4, 36.6), (108, 38.4), (120.5, 42.6), (133, 48.2), pressure=0.56)
    beak_low = t.outer((133, 48.2), (119, 46.4), (107, 45), (97.4, 44.8), pressure=0.62)
    front = t.outer((97.4, 44.8), (90.4, 46.0), (86.2, 50.4), (86.0, 56), (89.0, 62.4), pressure=0.58)
    back = t.outer((79.6, 38.4), (75.0, 43), (73.6, 49.4), (76.2, 55.4), (78.6, 61.4), pressure=0.64)
    t.cover(beak_top, beak_low, front, back[::-1], band)
    t.inner((95.2, 41.6), (106, 42.2), (118.4, 45.0), (128, 47.4), pressure=0.45)
    t.detail((104.6, 39.4), (108.4, 40.2), (111, 41.2))
    t.add(ring(92.6, 39.6, 2.0, 1.9), "inner", "2", 0.6, "careful")
    t.blacks.append(ring(93.0, 39.5, 1.15, 1.2, turn=360.0))
    t.detail((88.6, 37.6), (92.4, 36.6), (96.4, 37.8), pressure=0.5)
    t.detail((90.4, 41.4), (86, 41.4), (81.4, 40))
    t.inner((95.2, 41.8), (94.2, 43.6), (92.4, 44.6), pressure=0.4)
    t.detail((83.6, 48.2), (82.6, 51.8), (83.2, 56.2), pressure=0.36)
    t.detail((80.8, 46.4), (79.2, 50.6), (80.2, 55.8), pressure=0.36)
    t.detail((78.2, 45), (76.6, 49.2), (77.6, 53.4), pressure=0.36)
    t.detail((86.6, 45.4), (88.6, 44.2), (91.4, 43.6), pressure=0.36)
    t.inner((79.8, 39.4), (71, 38.2), (61.6, 41.8), (54.6, 48.4), pressure=0.5)
    t.inner((79.2, 40.6), (72, 41.6), (65.4, 46.2), (61.2, 52.4), pressure=0.44)
    t.detail((78.6, 39.9), (69.4, 40.0), (62, 44.4), (57.4, 49.6), pressure=0.34)
    return t


def coat() -> Thing:
    t = Thing("Coat", "near", True)
    back = t.outer((76.6, 65.4), (69.6, 73), (66, 84), (63, 96), (55.4, 106.4), (44.4, 114.2), pressure=0.6)
    tail = t.outer((44.4, 114.2), (51.4, 117.8), (58.4, 115), (66.4, 118.4), (75.4, 115.4), pressure=0.72)
    hem = t.outer((75.4, 115.4), (83.6, 119.4), (92.6, 116.8), (103, 117.6), pressure=0.72)
    front = t.outer((96.2, 65.2), (99.6, 76), (98.4, 90), (99.4, 104), (103, 117.6), pressure=0.52)
    t.cover(back, tail, hem, front[::-1])
    t.inner((88.6, 70.2), (90.8, 84), (90, 101), (85.2, 118.6), pressure=0.55)
    t.inner((88.6, 70.2), (95.4, 75.2), (91.4, 82.2), pressure=0.5)
    t.inner((77.4, 66.6), (79.6, 74), (88.4, 79.2), pressure=0.5)
    t.inner((66.2, 92.6), (62.6, 105), (59.6, 115.2), pressure=0.6)
    t.inner((63, 97), (57.4, 107), (51.6, 117), pressure=0.45)
    t.inner((76.6, 104), (72.6, 110.4), (70.6, 117.6), pressure=0.5)
    t.inner((95.4, 92), (94.8, 104), (96.6, 116.4), pressure=0.42)
    t.inner((99, 88), (96.2, 90.6), (95.8, 96), pressure=0.4)
    t.detail((81.4, 104), (79.4, 110.6), (79.2, 117))
    t.detail((67.2, 100), (64.8, 108), (64.6, 116.4))
    t.detail((55.6, 108.4), (52.2, 112.4), (48.4, 115.4))
    t.detail((92.6, 110), (92.2, 114), (92.8, 116.4))
    # Shade down the back, out of the seam, each stroke a little shorter towards the shoulder.
    for k in range(11):
        x, y = 69.4 - 0.62 * k, 78.0 + 2.7 * k
        t.add(curve((x - 1.6, y - 0.6), (x + 0.6, y + 1.0), (x + 2.0 + 0.12 * k, y + 3.2)), "texture", "2", 0.5, "fast")
    for x, y in ((94.2, 86), (94.4, 94.6), (94.9, 103.2)):
        t.add(ring(x, y, 1.3, 1.3), "detail", "2", 0.6, "careful")
        t.detail((90.7, y + 0.3), (91.8, y + 0.1), (92.8, y + 0.1))
    t.inner((83.6, 98.6), (87, 99.6), (89.6, 98.8), pressure=0.5)
    t.edge((83.6, 98.6), (83.2, 102.2), role="detail")
    lining = np.vstack([curve((60, 115.4), (63.4, 105.4), (66.2, 95.6)),
                        curve((66.2, 95.6), (66.8, 106), (66.2, 117.4)),
                        curve((66.2, 117.4), (63.4, 117.2), (60, 115.4))])  # fmt: skip
    t.blacks.append(lining)
    t.blacks.append(
        np.vstack([curve((56.0, 116), (60.6, 107), (64.4, 97.4)), curve((64.4, 97.4), (62, 106), (58.6, 115.2))])
    )
    t.crosses += [(63.9, 112, 2.0)]
    return t


def boots() -> Thing:
    t = Thing("Boots", "near", True)
    for x, y, lean, press in ((61.6, 132.6, 5.2, 0.6), (89.4, 132.2, 4.6, 0.5)):
        left = t.outer((x + lean - 4.6, 115), (x - 1.0, 124), (x - 1.8, y), pressure=press)
        right = t.outer((x + lean - 1.2, 116), (x + 3.0, 124.4), (x + 2.0, y + 0.2), pressure=press + 0.1)
        t.cover(left, right[::-1])
        t.detail((x - 0.6, 125.2), (x + 1.0, 126), (x + 2.4, 125.4))
        heel = t.outer((x - 3.4, y), (x - 3.2, y + 7.4), (x - 5.2, y + 13.8), pressure=0.6)
        toe = t.outer((x + 3.8, y + 0.2), (x + 4.2, y + 7), (x + 9.6, y + 10), (x + 14.2, y + 13.4), pressure=0.56)
        sole = t.edge((x - 5.6, y + 14.4), (x + 14.6, y + 14.2), pressure=0.75)
        t.edge((x - 3.6, y), (x + 4, y + 0.2), pressure=0.5)
        t.cover(heel, sole, toe[::-1])
        t.inner((x - 3.2, y + 2.2), (x + 0.4, y + 3.0), (x + 3.8, y + 2.4), pressure=0.4)
        t.detail((x + 3.4, y + 6), (x + 5.2, y + 8.4), (x + 8.2, y + 9.8))
        t.detail((x - 2.6, y + 9), (x - 0.8, y + 10), (x + 1.2, y + 9.6))
        shine = np.vstack([curve((x - 2.6, y + 3.6), (x - 2.2, y + 8), (x - 4.0, y + 13.4)),
                           [(x + 12.4, y + 13.4)],
                           curve((x + 12.4, y + 13.2), (x + 8.4, y + 11.4), (x + 1.6, y + 11.2), (x + 0.2, y + 7),
                                 (x + 0.6, y + 3.8))])  # fmt: skip
        t.blacks.append(shine)
        t.crosses.append((x - 0.4, y + 9.6, 1.8))
    return t
