// With COURIER_TEST_LEDGER set, every test case runs with a ledger attached to
// everything: whatever is promised holds then, too.
#include <courier/audit.hpp>
#include <courier/ledger.hpp>

#include <doctest/doctest.h>

#include <cstdlib>
#include <memory>

namespace {

class oversight : public doctest::IReporter {
public:
    explicit oversight(const doctest::ContextOptions&) {}
    void report_query(const doctest::QueryData&) override {}
    void test_run_start() override {}
    void test_run_end(const doctest::TestRunStats&) override {}
    void test_case_start(const doctest::TestCaseData&) override { begin(); }
    void test_case_reenter(const doctest::TestCaseData&) override {
        end();
        begin();
    }
    void test_case_end(const doctest::CurrentTestCaseStats&) override { end(); }
    void test_case_exception(const doctest::TestCaseException&) override {}
    void subcase_start(const doctest::SubcaseSignature&) override {}
    void subcase_end() override {}
    void log_assert(const doctest::AssertData&) override {}
    void log_message(const doctest::MessageData&) override {}
    void test_case_skipped(const doctest::TestCaseData&) override {}

private:
    void begin() {
        if (std::getenv("COURIER_TEST_LEDGER") != nullptr) {
            ledger_ = std::make_unique<courier::ledger>("test", courier::ledger_options{.time_every = 3});
            ledger_->attach_everything();
        }
    }
    void end() {
        if (ledger_ != nullptr) {
            static_cast<void>(courier::audit(ledger_->read()).text());
            ledger_.reset();
        }
    }

    std::unique_ptr<courier::ledger> ledger_;
};

REGISTER_LISTENER("oversight", 1, oversight);

} // namespace
