"""Shapes that players use, written down by ear and hand apart from the program's own table: tuning, frets from the
lowest string, the name that a player would say first."""

STANDARD = """
x32010 C | 332010 C/G | 032010 C/E | x32000 Cmaj7 | x32310 C7 | x32030 Cadd9 | x33011 Csus4 | x30013 Csus2 |
xx0232 D | 2x0232 D/F# | x00232 D/A | xx0212 D7 | xx0222 Dmaj7 | xx0233 Dsus4 | xx0230 Dsus2 | xx0231 Dm | xx0211 Dm7 |
xx0201 Dm6 | xx0221 Dm(maj7) | x30232 D/C | x30231 Dm/C | 1x0231 Dm/F | xx0202 D6 | x54232 D | x57775 D |
022100 E | 020100 E7 | 021100 Emaj7 | 022000 Em | 022030 Em7 | 020000 Em7 | 022200 Esus4 | 024100 Eadd9 | 020002 Em9 |
022002 Em(add9) | 022020 Em6 | 021000 Em(maj7) | 4x2400 E/G# | 020200 E7sus4 | 3x2000 Em/G | 020102 E9 |
133211 F | xx3211 F | xx3210 Fmaj7 | 133111 Fm | 131211 F7 | x33211 F/C | x03211 F/A | 1x2210 Fmaj7 | xx3213 Fadd9 |
320003 G | 320033 G | 320001 G7 | 320002 Gmaj7 | x20003 G/B | xx0003 G/D | 3x0013 Gsus4 | 320000 G6 | 3x0203 Gadd9 |
355433 G | 353433 G7 | 355333 Gm | 353333 Gm7 | 3x443x Gmaj7 | 3x343x G7 | 3x333x Gm7 | 3x0003 G | 2x0003 G/F# |
x02220 A | x02210 Am | x02020 A7 | x02120 Amaj7 | x02010 Am7 | x02230 Asus4 | x02200 Asus2 | x42220 A/C# | 002220 A/E |
302210 Am/G | x02420 Aadd9 | x02222 A6 | x02212 Am6 | x02030 A7sus4 | x02110 Am(maj7) | 4x2210 Am/G# | x32210 Am/C |
577655 A | 577555 Am | 575555 Am7 | 5x465x A6 | 5x565x A7 | 5x555x Am7 | 5x455x Am6 | x02423 A9 |
x24432 Bm | x24442 B | x21202 B7 | x24232 Bm7 | x20202 Bm7 | x2323x Bm7b5 | x24242 B7 | x24452 Bsus4 | x24342 Bmaj7 |
x13331 Bb | x13321 Bbm | x13231 Bbmaj7 | x13131 Bb7 | x10333 Gm/Bb | x13341 Bbsus4 | x13121 Bbm7 |
244222 F#m | 244322 F# | 242222 F#m7 | 2x221x F#m7b5 | 242322 F#7 | xx4212 F#dim | xx4322 F# |
x46654 C#m | x46664 C# | x4545x C#m7b5 | x4342x C#7 | x46454 C#m7 | x43121 C# | 466444 G#m | 466544 Ab | 4x343x G#dim7 |
x68886 Eb | x6576x Ebmaj9 | x6564x Eb7 | xx1212 D#dim7 | x7678x E7#9 | x7677x E9 | x3233x C9 | x3234x C7#9 | x3232x C7b9 |
x3243x Cmaj9 | x3133x Cm9 | x35343 Cm7 | x35543 Cm | x3545x Cmaj7 | x3535x C7 | x32233 C6/9 | 8x89xx C7 | 8x99xx Cmaj7 |
3x345x G13 | xx1003 Eb+ | x03221 A+ | 1x122x F7#5 | 022xxx E5 | x022xx A5 | xx023x D5 | 355xxx G5 | 133xxx F5 | x355xx C5 |
x244xx B5 | 577xxx A5 | 3x3211 F/G | 3x0232 D/G | x00003 G/A | x04432 Bm/A | xx0010 C/D | x35363 C7sus4
"""
OTHERS = {
    "drop D": "000xxx D5 | 222xxx E5 | 555xxx G5 | 777xxx A5 | 000232 D | 000231 Dm | 5x0003 G | 000233 Dsus4",
    "DADGAD": "000000 Dsus4 | 000200 D5 | x02202 A5 | 5x0000 Gsus2 | x02000 A7sus4 | 400200 D/F#",
    "open G": "x00000 G | x55555 C | x77777 D | 555555 C/G | 000000 G/D",
    "open D": "000000 D | 555555 G | 777777 A | 020120 G/D",
    "half step down": "x32010 B | 022000 Ebm | 133211 E | x02220 Ab",
    "seven strings": "x022100 E | 022xxxx B5",
}


def known():
    """(tuning, frets, name) of each."""
    for tuning, text in {"standard": STANDARD, **OTHERS}.items():
        for pair in text.replace("\n", " ").split("|"):
            frets, name = pair.split()
            yield tuning, frets, name
