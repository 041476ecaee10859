// Random wirings against an interpreter that is slow and obviously right, and texts that are refused at once.
#include "support.hpp"

#include <cmath>

using namespace wired;

namespace {

/// One condition, and the same for the interpreter.
struct model_test {
    std::string field;
    std::string op;
    double value = 0;
    [[nodiscard]] bool holds(const std::map<std::string, double>& fields) const {
        const double is = fields.at(field);
        return op == "value"       ? is == value
               : op == "not"       ? is != value
               : op == "less_than" ? is < value
               : op == "more_than" ? is > value
               : op == "at_least"  ? is >= value
                                   : is <= value;
    }
};

struct model_step {
    std::string writes;           ///< what the file says
    std::vector<std::string> way; ///< pieces: a text, or "{field}"
    bool is_judge = false;        ///< fails unless the field is 2
    std::string judged;
    double after = 0;
    std::vector<model_step> success;
    std::vector<model_step> failure;
};

struct model_wire {
    std::vector<std::string> when;
    std::vector<model_test> tests;
    std::vector<model_step> steps;
    std::vector<model_step> otherwise;
    bool stops = false;
    int times = 0; ///< 0: without limit
    double every = 0;
    double after = 0;
    double last = -1e9;
    int left = 0;
};

/// What is done later, in order of its time and then of how it was begun.
struct model_later {
    double at;
    std::vector<std::string> said;
};

class model {
public:
    explicit model(std::vector<model_wire> wires) : wires_(std::move(wires)) {
        for (model_wire& one : wires_) {
            one.left = one.times;
        }
    }

    void publish(const std::string& channel, const std::map<std::string, double>& fields) {
        if (!is_stopped(true, channel, fields)) { // rules come first
            is_stopped(false, channel, fields);
        }
    }
    void pass(double seconds) {
        now_ += seconds;
        std::stable_sort(later_.begin(), later_.end(), [](const auto& a, const auto& b) { return a.at < b.at; });
        while (!later_.empty() && later_.front().at <= now_ + 1e-9) {
            said_.insert(said_.end(), later_.front().said.begin(), later_.front().said.end());
            later_.erase(later_.begin());
        }
    }
    [[nodiscard]] const std::vector<std::string>& said() const { return said_; }

private:
    bool is_stopped(bool rules, const std::string& channel, const std::map<std::string, double>& fields) {
        for (model_wire& one : wires_) {
            if (one.stops != rules || std::find(one.when.begin(), one.when.end(), channel) == one.when.end() ||
                (one.times != 0 && one.left == 0) || now_ - one.last < one.every - 1e-9) {
                continue;
            }
            bool all = true;
            for (const model_test& test : one.tests) {
                all = all && test.holds(fields);
            }
            if (!all) {
                act(one.otherwise, 0, fields);
                continue;
            }
            --one.left;
            one.last = one.every > 0 ? now_ : one.last;
            act(one.steps, one.after, fields);
            if (one.stops) {
                return true;
            }
        }
        return false;
    }
    void act(const std::vector<model_step>& steps, double after, const std::map<std::string, double>& fields) {
        for (const model_step& step : steps) {
            std::vector<std::string> said;
            run(step, fields, said);
            if (after + step.after > 0) {
                later_.push_back({now_ + after + step.after, said});
            } else {
                said_.insert(said_.end(), said.begin(), said.end());
            }
        }
    }
    static void run(const model_step& step, const std::map<std::string, double>& fields,
                    std::vector<std::string>& said) {
        if (step.is_judge) {
            for (const model_step& next : fields.at(step.judged) == 2 ? step.success : step.failure) {
                run(next, fields, said);
            }
            return;
        }
        std::string text;
        for (const std::string& piece : step.way) {
            text += piece.starts_with("{")
                        ? std::to_string(static_cast<long>(fields.at(piece.substr(1, piece.size() - 2))))
                        : piece;
        }
        said.push_back(text);
    }

    std::vector<model_wire> wires_;
    std::vector<model_later> later_;
    std::vector<std::string> said_;
    double now_ = 0;
};

struct Bell {
    int strokes;
    std::uint8_t heads;
    std::int64_t far;
};
struct Judge {
    int whether;
};

class wiring_maker {
public:
    explicit wiring_maker(unsigned seed) : random_(seed) {}

    model_wire wire() {
        model_wire made;
        made.when.push_back(below(2) == 0 ? "one" : "two");
        if (below(4) == 0) {
            made.when.push_back(made.when[0] == "one" ? "two" : "one");
        }
        for (int i = below(3); i > 0; --i) {
            made.tests.push_back(test());
        }
        for (int i = 1 + below(3); i > 0; --i) {
            made.steps.push_back(step(0));
        }
        for (int i = made.tests.empty() ? 0 : below(3) - 1; i > 0; --i) {
            made.otherwise.push_back(step(0));
        }
        made.stops = below(8) == 0;
        made.times = below(4) == 0 ? 1 + below(3) : 0;
        made.every = below(5) == 0 ? 0.5 * (1 + below(3)) : 0;
        made.after = below(5) == 0 ? 0.5 * (1 + below(4)) : 0;
        return made;
    }
    int below(int most) { return static_cast<int>(random_() % static_cast<unsigned>(most)); }
    std::string field() {
        static const char* const all[] = {"strokes", "heads", "far"};
        return all[below(3)];
    }

private:
    model_test test() {
        static const char* const ops[] = {"value", "not", "less_than", "more_than", "at_least", "at_most"};
        model_test made{field(), ops[below(6)], 0};
        made.value = 1 + below(3); // so that none always holds, or never
        return made;
    }
    model_step step(int depth) {
        model_step made;
        made.after = depth == 0 && below(6) == 0 ? 0.5 * (1 + below(4)) : 0;
        if (depth < 3 && below(3) == 0) {
            made.is_judge = true;
            made.judged = "strokes";
            for (int i = 1 + below(2); i > 0; --i) {
                made.success.push_back(step(depth + 1));
            }
            for (int i = 1 + below(2); i > 0; --i) {
                made.failure.push_back(step(depth + 1));
            }
            return made;
        }
        for (int i = 1 + below(3); i > 0; --i) {
            made.way.push_back(below(2) == 0 ? "{" + field() + "}" : " t" + std::to_string(number_++) + " ");
        }
        return made;
    }

    std::mt19937 random_;
    int number_ = 0;
};

std::string text_of(const std::vector<model_step>& steps);

std::string text_of(const model_step& step) {
    const std::string after = step.after != 0 ? ", after = " + std::to_string(step.after) : "";
    if (step.is_judge) {
        return "{ action = 'judge'" + after + ", parameters = { whether = '{" + step.judged +
               "}' }, done = " + text_of(step.success) + ", failed = " + text_of(step.failure) + " }";
    }
    std::string text;
    for (const std::string& piece : step.way) {
        text += piece;
    }
    return "{ action = 'say'" + after + ", parameters = { text = '" + text + "' } }";
}

std::string text_of(const std::vector<model_step>& steps) {
    std::string all;
    for (const model_step& one : steps) {
        all += (all.empty() ? "[" : ", ") + text_of(one);
    }
    return all + "]";
}

std::string text_of(const model_wire& wire, int number) {
    std::string made = "[[wire]]\nname = 'w" + std::to_string(number) + "'\nwhen = ";
    made += wire.when.size() == 1 ? "'" + wire.when[0] + "'\n" : "['" + wire.when[0] + "', '" + wire.when[1] + "']\n";
    std::map<std::string, std::string> conditions;
    for (const model_test& one : wire.tests) {
        const std::string value = std::to_string(static_cast<int>(one.value));
        conditions[one.field] = one.op == "value" ? value : "{ " + one.op + " = " + value + " }"; // the last one
    }
    if (!conditions.empty()) {
        std::string all;
        for (const auto& [field, what] : conditions) {
            all += (all.empty() ? "" : ", ") + field + " = " + what;
        }
        made += "if = { " + all + " }\n";
    }
    made += wire.times != 0 ? "times = " + std::to_string(wire.times) + "\n" : "";
    made += wire.every != 0 ? "every = " + std::to_string(wire.every) + "\n" : "";
    made += wire.after != 0 ? "after = " + std::to_string(wire.after) + "\n" : "";
    made += wire.stops ? "stop = true\n" : "";
    made += wire.otherwise.empty() ? "" : "else = " + text_of(wire.otherwise) + "\n";
    return made + "do = " + text_of(wire.steps) + "\n\n";
}

/// A field is tested once in a file: its last test counts.
void keep_last_tests(model_wire& wire) {
    std::map<std::string, model_test> last;
    for (const model_test& one : wire.tests) {
        last[one.field] = one;
    }
    wire.tests.clear();
    for (const auto& [field, one] : last) {
        wire.tests.push_back(one);
    }
}

void compare_one(unsigned seed) {
    wiring_maker make(seed);
    std::vector<model_wire> wires;
    std::string text;
    std::size_t causes = 0;
    for (int i = 1 + make.below(8); i > 0; --i) {
        model_wire one = make.wire();
        keep_last_tests(one);
        text += text_of(one, i);
        causes += one.when.size();
        wires.push_back(std::move(one));
    }
    model should(wires);
    std::vector<std::string> said;
    courier::channel<Bell> one("one");
    courier::channel<Bell> two("two");
    courier::outbox later("later");
    courier::timetable time(later);
    courier::subscriber in("in");
    courier::wiring is("random");
    is.offer(one);
    is.offer(two);
    is.use(time);
    is.action<Line>(in, "say", [&](const Line& l) { said.push_back(l.text); });
    is.action<Judge>(in, "judge", [](const Judge& j) -> courier::outcome<> {
        return j.whether == 2 ? courier::outcome<>() : courier::failed{"it is not two"};
    });
    CAPTURE(seed);
    CAPTURE(text);
    REQUIRE_NOTHROW(is.load_text("random.toml", text));
    for (int i = 0; i < 40; ++i) {
        if (make.below(3) == 0) {
            const int halves = 1 + make.below(3);
            time.advance(std::chrono::milliseconds(500 * halves));
            later.deliver();
            should.pass(0.5 * halves);
        }
        const Bell bell{make.below(5), static_cast<std::uint8_t>(make.below(5)), make.below(5) - 1};
        const bool first = make.below(2) == 0;
        (first ? one : two).publish(bell);
        should.publish(first ? "one" : "two",
                       {{"strokes", bell.strokes}, {"heads", bell.heads}, {"far", static_cast<double>(bell.far)}});
        if (make.below(15) == 0) {
            REQUIRE(is.load_text("random.toml", "# moved\n\n" + text).kept == causes);
        }
    }
    CHECK(said == should.said());
}

} // namespace

TEST_CASE("random wirings do what an interpreter says that is slow and obviously right") {
    for (unsigned seed = 1; seed <= 300; ++seed) {
        compare_one(seed);
    }
}

TEST_CASE("a name that no object can have is a mistake, and not a name to wait for") {
    for (const char* const at : {"{bell", "*", "<bell>", "bell {order}"}) {
        harbour h;
        CAPTURE(at);
        CHECK(test::contains(h.load("[[wire]]\nwhen = 'hoist.raised'\ndo = { action = 'bell.ring', at = '" +
                                    std::string(at) + "', parameters = { strokes = 1 } }\n"),
                             "cannot be the name of an object"));
    }
}

TEST_CASE("what is nested deeply, and what a few lines multiply, is bounded before it is made") {
    harbour h;
    std::string dots = "a";
    for (int i = 0; i < 100'000; ++i) {
        dots += ".a";
    }
    const std::string brackets = "x = " + std::string(100'000, '[') + std::string(100'000, ']');
    for (const std::string& text : {dots + " = 1\n", brackets + "\n", "[" + dots + "]\n"}) {
        CHECK(test::contains(h.load(text), "deep [courier.wiring.too-large]"));
    }
    const std::string quoted(100, '[');
    CHECK(h.load("[[wire]] # " + quoted + "\nwhen = 'hoist.raised'\nnote = '''" + quoted + "\n" + quoted +
                 "'''\nname = \"\\\"" + quoted + "\"\ndo = 'horn.sound'\n") == "");
    std::string product = "[pattern.p]\ngaps = ['x']\nwhen = 'hoist.raised'\nname = '<x>'\ndo = [";
    for (int i = 0; i < 2300; ++i) {
        product += "'horn.sound',";
    }
    product += "]\n[[fill]]\npattern = 'p'\neach = [";
    for (int i = 0; i < 2500; ++i) {
        product += "{ x = '" + std::to_string(i) + "' },";
    }
    CHECK(test::contains(h.load(product + "]\n"), "patterns have become more than 300000 values"));
}
