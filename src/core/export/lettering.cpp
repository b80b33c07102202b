#include "export/lettering.h"

#include "base/types.h"

#include <cairo.h>

#include <array>
#include <cmath>
#include <cstdlib>
#include <map>
#include <string>
#include <vector>

namespace bonemoss::exporting {

namespace {

struct Letter {
    char32_t code;
    int width; ///< hundredths of the em, as are all lengths here; y goes up from the line that letters stand on
    /// M x y: the pen is put down; L x y: a straight line; Q x y x y: a curve (quadratic Bezier); O x y rx ry from to: an arc of an
    /// ellipse, degrees; D x y: a dot.
    const char *strokes;
};

constexpr Letter kLetters[] = {
    {0, 40, "M 6 0 L 6 60 L 34 60 L 34 0 L 6 0"}, // what there is no letter for
    {' ', 24, ""},
    {'a', 48, "O 23 23 17 23 30 330 M 39 46 L 39 0"},
    {'b', 49, "M 9 74 L 9 0 O 26 23 17 23 -150 150"},
    {'c', 42, "O 25 23 18 23 50 310"},
    {'d', 48, "O 23 23 17 23 30 330 M 39 74 L 39 0"},
    {'e', 45, "M 7 25 L 41 25 O 24 23 17 23 6 312"},
    {'f', 30, "M 30 72 Q 15 77 15 58 L 15 0 M 4 46 L 27 46"},
    {'g', 48, "O 23 23 17 23 30 330 M 39 46 L 39 -6 Q 38 -22 22 -22 Q 13 -22 8 -17"},
    {'h', 48, "M 9 74 L 9 0 M 9 28 Q 12 46 26 46 Q 39 46 39 28 L 39 0"},
    {'i', 18, "M 9 46 L 9 0 D 9 62"},
    {'j', 19, "M 10 46 L 10 -8 Q 10 -21 -3 -21 D 10 62"},
    {'k', 42, "M 9 74 L 9 0 M 36 46 L 10 20 M 18 27 L 39 0"},
    {'l', 18, "M 9 74 L 9 0"},
    {'m', 69, "M 9 46 L 9 0 M 9 28 Q 11 46 23 46 Q 34 46 34 28 L 34 0 M 34 28 Q 36 46 48 46 Q 60 46 60 28 L 60 0"},
    {'n', 48, "M 9 46 L 9 0 M 9 28 Q 12 46 26 46 Q 39 46 39 28 L 39 0"},
    {'o', 49, "O 24 23 18 23 0 360"},
    {'p', 49, "M 9 46 L 9 -22 O 26 23 17 23 -150 150"},
    {'q', 48, "O 23 23 17 23 30 330 M 39 46 L 39 -22"},
    {'r', 31, "M 9 46 L 9 0 M 9 26 Q 11 45 27 46"},
    {'s', 38, "M 31 41 Q 28 46 20 46 Q 8 46 8 36 Q 8 28 19 24 Q 32 20 32 11 Q 32 0 18 0 Q 10 0 6 6"},
    {'t', 31, "M 14 60 L 14 12 Q 14 -2 28 1 M 4 46 L 27 46"},
    {'u', 48, "M 9 46 L 9 17 Q 9 0 22 0 Q 36 0 39 17 M 39 46 L 39 0"},
    {'v', 40, "M 4 46 L 20 0 L 36 46"},
    {'w', 62, "M 4 46 L 17 0 L 31 40 L 45 0 L 58 46"},
    {'x', 41, "M 5 46 L 36 0 M 36 46 L 5 0"},
    {'y', 41, "M 4 46 L 21 2 M 37 46 L 19 -6 Q 13 -22 3 -20"},
    {'z', 41, "M 6 46 L 34 46 L 6 0 L 36 0"},
    {'A', 58, "M 3 0 L 29 68 L 55 0 M 13 24 L 45 24"},
    {'B', 53, "M 10 0 L 10 68 L 26 68 Q 43 68 43 52 Q 43 37 26 37 L 10 37 M 26 37 Q 47 37 47 19 Q 47 0 26 0 L 10 0"},
    {'C', 60, "O 35 34 28 34 50 310"},
    {'D', 65, "M 10 0 L 10 68 L 24 68 Q 58 68 58 34 Q 58 0 24 0 L 10 0"},
    {'E', 49, "M 44 68 L 10 68 L 10 0 L 45 0 M 10 36 L 39 36"},
    {'F', 46, "M 43 68 L 10 68 L 10 0 M 10 36 L 37 36"},
    {'G', 66, "O 35 34 28 34 50 325 M 40 31 L 58 31 L 58 8"},
    {'H', 62, "M 10 68 L 10 0 M 52 68 L 52 0 M 10 36 L 52 36"},
    {'I', 20, "M 10 68 L 10 0"},
    {'J', 35, "M 25 68 L 25 16 Q 25 0 12 0 Q 7 0 4 4"},
    {'K', 55, "M 10 68 L 10 0 M 48 68 L 12 31 M 22 41 L 52 0"},
    {'L', 45, "M 10 68 L 10 0 L 42 0"},
    {'M', 76, "M 8 0 L 13 68 L 38 14 L 63 68 L 68 0"},
    {'N', 62, "M 10 0 L 10 68 L 52 0 L 52 68"},
    {'O', 72, "O 36 34 29 34 0 360"},
    {'P', 50, "M 10 0 L 10 68 L 26 68 Q 46 68 46 50 Q 46 31 26 31 L 10 31"},
    {'Q', 72, "O 36 34 29 34 0 360 M 42 12 L 64 -9"},
    {'R', 54, "M 10 0 L 10 68 L 26 68 Q 46 68 46 50 Q 46 31 26 31 L 10 31 M 26 31 L 50 0"},
    {'S', 50, "M 42 59 Q 36 68 25 68 Q 9 68 9 53 Q 9 41 25 36 Q 44 31 44 16 Q 44 0 25 0 Q 12 0 6 10"},
    {'T', 56, "M 4 68 L 52 68 M 28 68 L 28 0"},
    {'U', 62, "M 10 68 L 10 24 Q 10 0 31 0 Q 52 0 52 24 L 52 68"},
    {'V', 56, "M 3 68 L 28 0 L 53 68"},
    {'W', 84, "M 3 68 L 22 0 L 42 60 L 62 0 L 81 68"},
    {'X', 56, "M 5 68 L 51 0 M 51 68 L 5 0"},
    {'Y', 54, "M 3 68 L 27 34 L 51 68 M 27 34 L 27 0"},
    {'Z', 54, "M 6 68 L 48 68 L 5 0 L 50 0"},
    {'0', 46, "O 23 33 17 33 0 360"},
    {'1', 46, "M 10 54 L 25 66 L 25 0"},
    {'2', 46, "M 7 52 Q 9 66 23 66 Q 38 66 38 50 Q 38 36 6 0 L 40 0"},
    {'3', 46, "M 8 60 Q 13 66 22 66 Q 37 66 37 51 Q 37 36 19 36 Q 39 36 39 18 Q 39 0 21 0 Q 11 0 6 6"},
    {'4', 46, "M 32 0 L 32 66 L 5 20 L 42 20"},
    {'5', 46, "M 37 66 L 13 66 L 11 38 Q 16 42 22 42 Q 39 42 39 21 Q 39 0 20 0 Q 11 0 6 5"},
    {'6', 46, "M 35 65 Q 7 58 7 21 O 23 21 16 21 0 360"},
    {'7', 46, "M 6 66 L 39 66 L 17 0"},
    {'8', 46, "O 23 50 14 16 0 360 O 23 17 17 17 0 360"},
    {'9', 46, "O 23 45 16 21 0 360 M 39 45 Q 39 8 11 1"},
    {'.', 18, "D 8 3"},
    {',', 18, "D 9 3 M 9 4 L 5 -9"},
    {':', 18, "D 8 3 D 8 34"},
    {';', 18, "D 9 3 M 9 4 L 5 -9 D 9 34"},
    {'!', 20, "M 10 68 L 10 20 D 10 3"},
    {'?', 40, "M 6 58 Q 10 68 20 68 Q 34 68 34 53 Q 34 42 19 32 L 19 20 D 19 3"},
    {'\'', 14, "M 8 72 L 7 56"},
    {'"', 24, "M 8 72 L 7 56 M 18 72 L 17 56"},
    {'(', 26, "M 22 76 Q 8 62 8 30 Q 8 -2 22 -16"},
    {')', 26, "M 4 76 Q 18 62 18 30 Q 18 -2 4 -16"},
    {'[', 26, "M 21 74 L 9 74 L 9 -14 L 21 -14"},
    {']', 26, "M 5 74 L 17 74 L 17 -14 L 5 -14"},
    {'/', 36, "M 4 -8 L 32 74"},
    {'-', 28, "M 5 24 L 23 24"},
    {'_', 40, "M 2 -8 L 38 -8"},
    {'+', 46, "M 23 46 L 23 8 M 4 27 L 42 27"},
    {'=', 46, "M 5 35 L 41 35 M 5 19 L 41 19"},
    {'*', 34, "M 17 70 L 17 46 M 6 64 L 28 52 M 28 64 L 6 52"},
    {'<', 44, "M 38 48 L 6 27 L 38 6"},
    {'>', 44, "M 6 48 L 38 27 L 6 6"},
    {'%', 66, "O 17 52 10 14 0 360 O 49 14 10 14 0 360 M 12 -2 L 54 68"},
    {'#', 52, "M 20 66 L 14 2 M 38 66 L 32 2 M 6 44 L 46 44 M 5 24 L 45 24"},
    {'&', 58, "M 52 0 L 15 46 Q 9 55 13 62 Q 18 68 25 67 Q 34 64 33 55 Q 32 46 19 38 Q 6 30 8 15 Q 11 0 26 0 Q 43 0 49 28"},
    {U'\u2013', 42, "M 4 24 L 38 24"},
    {U'\u2014', 62, "M 3 24 L 59 24"},
    {U'\u2018', 14, "M 5 56 L 9 72"},
    {U'\u2019', 14, "M 9 72 L 5 56"},
    {U'\u201c', 24, "M 5 56 L 9 72 M 15 56 L 19 72"},
    {U'\u201d', 24, "M 9 72 L 5 56 M 19 72 L 15 56"},
    {U'\u2026', 54, "D 8 3 D 26 3 D 44 3"},
    {U'\u00d7', 46, "M 8 42 L 38 12 M 38 42 L 8 12"},
    {U'\u00b7', 18, "D 9 26"},
    {U'\u00b0', 26, "O 13 60 8 8 0 360"},
    {U'\u00b1', 46, "M 23 50 L 23 18 M 7 34 L 39 34 M 6 6 L 40 6"},
    {U'\u00df', 50, "M 9 0 L 9 56 Q 9 74 24 74 Q 38 74 38 60 Q 38 50 26 42 Q 44 38 44 20 Q 44 0 24 0"},
    {U'\u00e6', 72, "O 23 23 17 23 30 330 M 38 25 L 68 25 O 52 23 16 23 6 312 M 38 46 L 38 0"},
    {U'\u0153', 76, "O 24 23 18 23 0 360 M 42 25 L 72 25 O 57 23 16 23 6 312"},
    {U'\u00f8', 49, "O 24 23 18 23 0 360 M 8 -5 L 41 51"},
    {U'\u00d8', 72, "O 36 34 29 34 0 360 M 14 -5 L 58 73"},
    {U'\u2640', 44, "O 22 44 15 16 0 360 M 22 28 L 22 -4 M 9 11 L 35 11"},
    {U'\u2642', 54, "O 20 22 15 16 0 360 M 31 34 L 46 52 M 33 53 L 47 53 L 47 39"},
};

/// Accents over (or under) a letter, and the letters that have them.
struct Accent {
    const char *strokes; ///< about x 0, for small letters; 22 higher over capitals
    bool isBelow = false;
    std::u32string_view plain, accented;
};
constexpr Accent kAccents[] = {
    {"D -8 62 D 9 62", false, U"aeiouyAEIOU", U"\u00e4\u00eb\u00ef\u00f6\u00fc\u00ff\u00c4\u00cb\u00cf\u00d6\u00dc"},
    {"M -4 57 L 7 70", false, U"aeiouyAEIOUYcnsz",
     U"\u00e1\u00e9\u00ed\u00f3\u00fa\u00fd\u00c1\u00c9\u00cd\u00d3\u00da\u00dd\u0107\u0144\u015b\u017a"},
    {"M 4 57 L -7 70", false, U"aeiouAEIOU", U"\u00e0\u00e8\u00ec\u00f2\u00f9\u00c0\u00c8\u00cc\u00d2\u00d9"},
    {"M -11 57 L 0 68 L 11 57", false, U"aeiouAEIOU", U"\u00e2\u00ea\u00ee\u00f4\u00fb\u00c2\u00ca\u00ce\u00d4\u00db"},
    {"M -11 68 L 0 57 L 11 68", false, U"cszrenCSZR", U"\u010d\u0161\u017e\u0159\u011b\u0148\u010c\u0160\u017d\u0158"},
    {"M -12 58 Q -6 70 0 62 Q 6 55 12 66", false, U"anoANO", U"\u00e3\u00f1\u00f5\u00c3\u00d1\u00d5"},
    {"O 0 63 6 6 0 360", false, U"aAuU", U"\u00e5\u00c5\u016f\u016e"},
    {"M 1 -2 Q 10 -12 -5 -19", true, U"cCsS", U"\u00e7\u00c7\u015f\u015e"},
};

struct Drawn {
    double width = 0;
    std::vector<std::vector<std::array<double, 2>>> strokes; ///< of the em
    std::vector<std::array<double, 2>> dots;
};

void follow(const char *text, double dx, double dy, Drawn &out)
{
    const auto number = [&] {
        char *end = nullptr;
        const double v = std::strtod(text, &end);
        text = end;
        return v;
    };
    const auto point = [&] {
        const double x = number(), y = number();
        return std::array{(x + dx) / 100, (y + dy) / 100};
    };
    constexpr int kSteps = 14;
    for (; *text; ++text) {
        switch (*text) {
        case 'M': ++text, out.strokes.push_back({point()}), --text; break;
        case 'L': ++text, out.strokes.back().push_back(point()), --text; break;
        case 'D': ++text, out.dots.push_back(point()), --text; break;
        case 'Q': {
            ++text;
            const auto a = out.strokes.back().back(), b = point(), c = point();
            for (int k = 1; k <= kSteps; ++k) {
                const double t = double(k) / kSteps, s = 1 - t;
                out.strokes.back().push_back(
                    {s * s * a[0] + 2 * s * t * b[0] + t * t * c[0], s * s * a[1] + 2 * s * t * b[1] + t * t * c[1]});
            }
            --text;
            break;
        }
        case 'O': {
            ++text;
            const auto c = point();
            const double rx = number() / 100, ry = number() / 100, from = number(), to = number();
            const int n = std::max(4, int((to - from) / 8));
            std::vector<std::array<double, 2>> arc;
            for (int k = 0; k <= n; ++k) {
                const double angle = (from + (to - from) * k / n) * double(kRadiansPerDegree);
                arc.push_back({c[0] + rx * std::cos(angle), c[1] + ry * std::sin(angle)});
            }
            out.strokes.push_back(std::move(arc));
            --text;
            break;
        }
        default: break;
        }
        if (!*text)
            break;
    }
}

constexpr double kSpace = 0.012; ///< of the em, between letters

struct Alphabet {
    std::vector<Drawn> letters;
    std::map<char32_t, unsigned long> numbers;

    Alphabet()
    {
        for (const Letter &l : kLetters) {
            Drawn d{double(l.width) / 100 + kSpace, {}, {}};
            follow(l.strokes, 0, 0, d);
            numbers[l.code] = letters.size();
            letters.push_back(std::move(d));
        }
        for (const Accent &a : kAccents)
            for (std::size_t k = 0; k < a.plain.size() && k < a.accented.size(); ++k) {
                const char32_t plain = a.plain[k];
                Drawn d = letters[numbers.at(plain)];
                if (plain == U'i')
                    d.dots.clear();
                const bool isCapital = plain < U'a';
                follow(a.strokes, (d.width - kSpace) * 50, isCapital && !a.isBelow ? 22 : 0, d);
                numbers[a.accented[k]] = letters.size();
                letters.push_back(std::move(d));
            }
    }
};

const Alphabet &alphabet()
{
    static const Alphabet own;
    return own;
}

cairo_status_t begin(cairo_scaled_font_t *, cairo_t *, cairo_font_extents_t *extents)
{
    extents->ascent = 0.80, extents->descent = 0.25, extents->height = 1.15, extents->max_x_advance = 0.9;
    extents->max_y_advance = 0;
    return CAIRO_STATUS_SUCCESS;
}

cairo_status_t numberOf(cairo_scaled_font_t *, unsigned long code, unsigned long *number)
{
    const auto &numbers = alphabet().numbers;
    const auto at = numbers.find(char32_t(code));
    *number = at == numbers.end() ? 0 : at->second;
    return CAIRO_STATUS_SUCCESS;
}

/// The pen, a narrow slant edge with a little body, along all strokes.
cairo_status_t draw(cairo_scaled_font_t *, unsigned long number, cairo_t *cairo, cairo_text_extents_t *extents)
{
    const Drawn &letter = alphabet().letters[std::min<std::size_t>(number, alphabet().letters.size() - 1)];
    extents->x_advance = letter.width;
    constexpr double kNibX = 0.5 * 0.082 * 0.8660254, kNibY = 0.5 * 0.082 * 0.5, kBody = 0.026; // 30 degrees
    cairo_set_fill_rule(cairo, CAIRO_FILL_RULE_WINDING);
    const auto quad = [&](std::array<double, 2> a, std::array<double, 2> b) {
        std::array<std::array<double, 2>, 4> q{{{a[0] - kNibX, a[1] - kNibY},
                                                {a[0] + kNibX, a[1] + kNibY},
                                                {b[0] + kNibX, b[1] + kNibY},
                                                {b[0] - kNibX, b[1] - kNibY}}};
        const double turn = (q[1][0] - q[0][0]) * (q[2][1] - q[1][1]) - (q[1][1] - q[0][1]) * (q[2][0] - q[1][0]);
        if (turn < 0)
            std::swap(q[1], q[3]); // all the same way round, so that what overlaps stays filled
        for (std::size_t k = 0; k < 4; ++k)
            (k ? cairo_line_to : cairo_move_to)(cairo, q[k][0], -q[k][1]);
        cairo_close_path(cairo);
    };
    for (const auto &stroke : letter.strokes)
        for (std::size_t k = 0; k + 1 < stroke.size(); ++k)
            quad(stroke[k], stroke[k + 1]);
    for (const auto dot : letter.dots) {
        quad({dot[0] - 0.02, dot[1] + 0.034}, {dot[0] + 0.02, dot[1] - 0.034});
    }
    cairo_fill_preserve(cairo);
    cairo_set_line_width(cairo, kBody);
    cairo_set_line_join(cairo, CAIRO_LINE_JOIN_ROUND);
    cairo_stroke(cairo);
    return CAIRO_STATUS_SUCCESS;
}

} // namespace

_cairo_font_face *lettering()
{
    static cairo_font_face_t *const face = [] {
        cairo_font_face_t *f = cairo_user_font_face_create();
        cairo_user_font_face_set_init_func(f, begin);
        cairo_user_font_face_set_unicode_to_glyph_func(f, numberOf);
        cairo_user_font_face_set_render_glyph_func(f, draw);
        return f;
    }();
    return face;
}

bool hasLetter(char32_t letter)
{
    return alphabet().numbers.contains(letter);
}

} // namespace bonemoss::exporting
