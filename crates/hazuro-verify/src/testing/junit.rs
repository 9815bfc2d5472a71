//! Results for build servers, as `JUnit` XML.

use hazuro_format::Finding;
use quick_junit::{NonSuccessKind, TestCase, TestCaseStatus, TestSuite};

use super::Report;

/// What is held against what goes wrong in scripts, handlers and conditions.
const GOES_RIGHT: &str = "nothing goes wrong in scripts, handlers and conditions";

/// The results of playtests as `JUnit` XML: a suite for each file, a case for each expectation. Of
/// a file that could not be read, its findings instead of a report.
///
/// # Errors
/// If a text in it cannot be written as XML.
pub fn junit(results: &[(String, Result<Report, Vec<Finding>>)]) -> Result<String, String> {
    let mut all = quick_junit::Report::new("hazuro");
    for (file, result) in results {
        let mut suite = TestSuite::new(file.as_str());
        match result {
            Ok(report) => {
                for outcome in &report.outcomes {
                    let status = if outcome.met {
                        TestCaseStatus::success()
                    } else {
                        let mut status = TestCaseStatus::non_success(NonSuccessKind::Failure);
                        let text = std::iter::once(format!("seen: {}", outcome.seen))
                            .chain(outcome.why.iter().cloned());
                        status
                            .set_message(format!("line {}: not met", outcome.line))
                            .set_description(text.collect::<Vec<_>>().join("\n"));
                        status
                    };
                    suite.add_test_case(TestCase::new(outcome.expected.as_str(), status));
                }
                if !report.lines.is_empty() {
                    suite.set_system_out(report.lines.join("\n"));
                }
                if !report.failures.is_empty() {
                    let mut status = TestCaseStatus::non_success(NonSuccessKind::Error);
                    status
                        .set_message("something goes wrong while it is played")
                        .set_description(report.failures.join("\n"));
                    suite.add_test_case(TestCase::new(GOES_RIGHT, status));
                }
                if let Some(at) = report.cut_short {
                    let mut status = TestCaseStatus::non_success(NonSuccessKind::Error);
                    status.set_message(format!("cut short at {at} s"));
                    suite.add_test_case(TestCase::new("it is played to its end", status));
                }
            }
            Err(findings) => {
                let mut status = TestCaseStatus::non_success(NonSuccessKind::Error);
                let text: Vec<String> = findings.iter().map(Finding::line).collect();
                status.set_message("it cannot be played").set_description(text.join("\n"));
                suite.add_test_case(TestCase::new("it can be played", status));
            }
        }
        all.add_test_suite(suite);
    }
    all.to_string().map_err(|error| error.to_string())
}
