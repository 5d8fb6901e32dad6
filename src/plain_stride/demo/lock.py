"""The demo's lock: balance beam, gate with its paddle gear, the stones of the lockside, and a cat that watches."""

import numpy as np

from plain_stride.demo.draw import Thing, box, curve, ring, straight


def beam_top(x: float) -> float:
    return 119.0 - (x - 22.0) * 0.082


def beam_foot(x: float) -> float:
    return 134.5 - (x - 22.0) * 0.094


def cat() -> Thing:
    t = Thing("Cat", "near", True)
    back = t.outer((27.2, 95.6), (22.6, 101), (19.4, 109.5), (20.4, 118.6), pressure=0.55)
    ears = t.edge((27.2, 95.6), (26.4, 88.2), (29.4, 91.2), (33.6, 91.0), (36.6, 87.8), (36.2, 95.4), pressure=0.5)
    front = t.outer((36.2, 95.4), (38.6, 101), (39.4, 109), (38.6, 117.4), pressure=0.6)
    tail = t.outer((20.4, 117), (15.2, 119.4), (12.6, 126), (15.2, 132.6), (18.8, 133.4), pressure=0.62)
    inner = t.outer((22, 118.8), (17.6, 121.4), (15.8, 126.2), (17.2, 130.6), (18.8, 133.4), pressure=0.5)
    outline = np.vstack([ears, front, [(38.4, 118.4), (20.4, 119.2)], back[::-1]])
    t.covers += [outline, np.vstack([tail, inner[::-1]])]
    t.blacks += [outline, np.vstack([tail, inner[::-1]])]
    t.crosses += [(29.4, 108, 3.4)]
    t.detail((31.2, 118.8), (31.6, 114), (30.4, 110), pressure=0.3)
    return t


def beam() -> Thing:
    t = Thing("Beam", "near", True)
    top, foot = (lambda x: (x, beam_top(x))), (lambda x: (x, beam_foot(x)))
    t.edge(top(22), top(110), top(222), pressure=0.45)
    t.edge(foot(22), foot(110), foot(222), pressure=0.66)
    t.edge(top(222), foot(222), pressure=0.55)
    t.outer(top(22), (14.6, 121.4), (12.6, 127.4), (14.8, 132.8), foot(22), pressure=0.5)
    t.inner((22.4, 119.4), (25.2, 126.4), (22.4, 134.2), pressure=0.4)
    for x in (41.5, 44.5, 152.0, 155.0):
        t.edge((x, beam_top(x) + 0.3), (x + 0.8, beam_foot(x) - 0.3), role="inner", pressure=0.5)
    for x, dy in ((43.2, 4.2), (43.6, 10.6), (153.6, 3.4), (154, 8.6)):
        t.add(ring(x, beam_top(x) + dy, 0.7, 0.7), "detail", "2", 0.6, "careful")
    grain = (((47, 5.0), (60, 4.2)), ((104, 4.6), (124, 3.6)), ((108, 9.0), (146, 8.2)), ((159, 4.4), (186, 4.0)),
             ((170, 8.0), (206, 7.2)), ((47, 11.4), (56, 11.0)), ((104, 12.0), (118, 11.6)))  # fmt: skip
    for (x0, d0), (x1, d1) in grain:
        xm = (x0 + x1) / 2
        t.detail((x0, beam_top(x0) + d0), (xm, beam_top(xm) + (d0 + d1) / 2 - 0.7), (x1, beam_top(x1) + d1))
    for x, d in ((16.6, 127), (18.6, 127)):
        t.add(ring(x, d, (20.5 - x) * 0.5, (20.5 - x) * 1.15, turn=300.0), "detail", "2", 0.4, "careful")
    t.covers.append(np.vstack([[top(22), top(222), foot(222), foot(22)],
                               curve(foot(22), (14.8, 132.8), (12.6, 127.4), (14.6, 121.4), top(22))]))  # fmt: skip
    return t


def lockside() -> Thing:
    t = Thing("Lockside", "near", False)
    t.add(curve((0.0, 148.6), (60.0, 147.4), (120.0, 146.6), (150.0, 146.8)), "outer", "4", 0.45)
    t.add(straight((150.0, 146.8), (151.6, 160.0)), "outer", "4", 0.6)
    t.add(curve((0.0, 154.0), (70.0, 153.2), (150.6, 152.6)), "inner", "3", 0.45)
    for x, lean in ((14.0, 0.4), (43.0, 0.6), (77.0, 0.7), (106.0, 0.9), (131.0, 1.0)):
        t.add(straight((x, 148.2), (x + lean, 153.4)), "inner", "3", 0.45)
        t.add(straight((x + 12.0, 153.6), (x + 12.0 + lean, 160.0)), "inner", "3", 0.4)
    for a, b, c in (((22, 151), (27, 150.4), (33, 150.8)), ((56, 150.6), (62, 151.2), (66, 150.6)),
                    ((86, 150), (92, 149.6), (98, 150.2)), ((112, 150.2), (118, 150.6), (124, 149.8)),
                    ((30, 157), (36, 156.4), (42, 157.2)), ((62, 157.4), (70, 156.8), (76, 157)),
                    ((98, 157.4), (104, 156.8), (110, 157.2)), ((136, 157), (141, 156.4), (146, 157))):  # fmt: skip
        t.detail(a, b, c)
    for x, high in ((2, 9), (5, 13), (8.6, 8), (11.4, 11), (101.6, 7), (104, 10), (107, 6.4)):
        t.add(curve((x, 148.4), (x + 0.8, 148.4 - high * 0.6), (x + 2.6, 148.4 - high)), "detail", "2", 0.5, "fast")
        bent = curve((x + 0.9, 148.4), (x - 0.4, 148.4 - high * 0.5), (x - 2.0, 148.4 - high * 0.8))
        t.add(bent, "detail", "2", 0.45, "fast")
    t.covers.append(np.array([(0, 148.6), (60, 147.4), (120, 146.6), (150, 146.8), (151.6, 160), (0, 160)]))
    return t


def gate() -> Thing:
    t = Thing("Gate", "middle", True)
    t.edge((206.0, 160.0), (206.0, 92.0), (219.0, 91.2), (219.0, 160.0), pressure=0.6)
    t.edge((206.0, 92.0), (208.6, 88.8), (221.4, 88.2), (219.0, 91.2), role="inner", pressure=0.5)
    t.inner((206.2, 97.0), (212.0, 97.8), (218.8, 96.4))
    t.detail((209.4, 101), (210.0, 108), (209.0, 115))
    t.detail((214.8, 120), (215.4, 132), (214.4, 144))
    t.edge((158.0, beam_foot(158)), (158.0, 160.0), pressure=0.6)
    t.edge((165.0, beam_foot(165)), (165.0, 160.0), role="inner")
    for x in (173.0, 181.2, 189.6, 198.0):
        t.edge((x, beam_foot(x)), (x, 160.0), role="ruled", pressure=0.4)
    for y in (131.0, 146.0):
        t.edge((165.0, y), (206.0, y - 1.6), role="ruled", pressure=0.5)
        t.edge((165.0, y + 4.6), (206.0, y + 3.0), role="ruled", pressure=0.5)
    for x in (169.0, 193.8, 202.0):
        for y in (133.2, 148.2):
            t.add(ring(x, y - (x - 165) * 0.04, 0.8, 0.8), "detail", "2", 0.6, "careful")
    t.covers += [box(206, 91.5, 219, 160), np.array([(158, 122), (206, 117), (206, 160), (158, 160)]),
                 np.array([(206, 92), (208.6, 88.8), (221.4, 88.2), (219, 91.2)])]  # fmt: skip
    for a, b in ((165.0, 173.0), (181.2, 189.6), (198.0, 206.0)):
        t.blacks.append(np.array([(a, beam_foot(a) + 0.4), (b, beam_foot(b) + 0.4), (b, beam_foot(b) + 3.4),
                                  (a, beam_foot(a) + 5.6)]))  # fmt: skip
    t.crosses += [(169, 125.6, 1.8), (185.4, 123.6, 1.8), (202, 121.8, 1.8)]
    return t


def gear() -> Thing:
    """The rack and wheel that lift the paddles."""
    t = Thing("Paddle gear", "middle", True)
    x, wheel = 164.6, 176.2
    t.edge((x, beam_top(x)), (x, 78.0), (x + 5.4, 78.0), (x + 5.4, beam_top(x + 5)), pressure=0.5)
    t.edge((x + 2.7, 80.4), (x + 2.7, 105.0), role="detail")
    for k in range(7):
        y = 80.6 + 3.2 * k
        t.edge((x + 5.4, y), (x + 7.2, y + 0.5), (x + 5.4, y + 1.6), role="detail", pressure=0.45)
    t.add(ring(wheel, 97.6, 4.4, 4.4), "outer", "3", 0.5, "careful")
    t.add(ring(wheel, 97.6, 1.2, 1.2), "inner", "2", 0.6, "careful")
    for angle in np.radians(np.arange(0, 360, 60)):
        c, s = np.cos(angle), np.sin(angle)
        t.edge((wheel + 1.5 * c, 97.6 + 1.5 * s), (wheel + 4.0 * c, 97.6 + 4.0 * s), role="detail", pressure=0.4)
    t.edge((wheel - 2.8, beam_top(wheel)), (wheel - 2.2, 101.2), role="inner")
    t.edge((wheel + 3.4, beam_top(wheel + 3)), (wheel + 2.6, 101.0), role="inner")
    t.edge((wheel + 4.2, 97.0), (wheel + 9.4, 92.6), (wheel + 9.4, 89.4), role="inner")
    t.covers += [box(x, 78, x + 5.4, 112), ring(wheel, 97.6, 4.4, 4.4)]
    return t


def water() -> Thing:
    t = Thing("Water", "middle", False)
    for x, y, long in ((222, 128, 16), (225, 134, 13), (221, 141, 17), (224, 148, 14), (222, 155, 16), (153, 150, 4.6),
                       (153.4, 155.6, 4.4), (108, 139.6, 24), (122, 142.8, 26), (112, 137.0, 12)):  # fmt: skip
        t.detail((x, y), (x + long * 0.3, y - 0.8), (x + long * 0.65, y + 0.7), (x + long, y))
    return t
