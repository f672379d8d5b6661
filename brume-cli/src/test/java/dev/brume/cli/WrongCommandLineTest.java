package dev.brume.cli;

import static org.assertj.core.api.Assertions.assertThat;

import java.io.ByteArrayOutputStream;
import java.io.PrintStream;
import java.nio.charset.StandardCharsets;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.params.ParameterizedTest;
import org.junit.jupiter.params.provider.CsvSource;

/** What a person reads who mistyped: a line that says what is wrong, and where to read on. */
class WrongCommandLineTest {
    private record Said(int code, String out, String err) {}

    private static Said brume(String... args) {
        ByteArrayOutputStream out = new ByteArrayOutputStream();
        ByteArrayOutputStream err = new ByteArrayOutputStream();
        int code = BrumeCommand.run(args, new PrintStream(out), new PrintStream(err));
        return new Said(code, out.toString(StandardCharsets.UTF_8), err.toString(StandardCharsets.UTF_8));
    }

    @ParameterizedTest
    @CsvSource(delimiter = '|', textBlock = """
            jbos                                   | there is no command 'jbos'; did you mean jobs?
            xylophone                              | there is no command 'xylophone'
            one-off ad                             | there is no command 'ad'; did you mean add?
            one-off                                | expected one of add, move, drop, list
            jobs --fromat json                     | there is no option '--fromat'; did you mean --format?
            jobs -x                                | there is no option '-x'
            jobs extra                             | 'extra' is not expected here (a value of several words belongs in quotes)
            preview 0 9 * * *                      | '9' is not expected here (a value of several words belongs in quotes)
            show                                   | missing: RUN
            one-off add bridge-closure regatta     | missing: --at
            pause                                  | one of these is missing: JOB, --tag, --namespace, --everything
            pause tides --tag night                | JOB and --tag do not go together
            drop                                   | one of these is missing: JOB, --namespace
            runs --count                           | --count needs a value: N
            show tides                             | RUN: 'tides' is not a whole number
            runs --count 1.5                       | --count: '1.5' is not a whole number
            runs --count 99999999999               | --count: '99999999999' is far too large
            runs --below -99999999999999999999     | --below: '-99999999999999999999' is far too small
            jobs --format xml                      | --format: 'xml' is not one of text, json
            preview x --gap later                  | --gap: 'later' is not one of after, skip
            run-now tides --wait 5                 | --wait: '5' has no unit; did you mean 5s?
            keep --for soon                        | --for: 'soon' is not a duration (expected for example 30s, 5m, 1h30m, 2d)
            """)
    void whatIsWrongIsSaidInALine(String args, String expected) {
        Said said = brume(args.split("\\s+"));

        assertThat(said.code()).isEqualTo(ExitCode.USAGE);
        assertThat(said.out()).isEmpty();
        assertThat(said.err().lines().findFirst()).contains("brume: " + expected);
        assertThat(said.err().lines().skip(1))
                .singleElement()
                .asString()
                .matches("\\(brume.* --help says what it takes\\)");
    }

    @Test
    void withoutACommandAllOfThemAreListed() {
        Said said = brume();

        assertThat(said.code()).isEqualTo(ExitCode.USAGE);
        assertThat(said.err()).contains("Usage: brume", "  jobs ", "  preview ", "  tally ");
    }

    @ParameterizedTest
    @CsvSource(delimiter = '|', textBlock = """
            serve --lease 1s                       | --lease: 1s is outside 2s to 3650d
            rehearse harbour.yaml --for 4000d      | --for 4000d is outside 1s to 3660d
            jobs --watch 10ms                      | --watch 10ms is below 500ms
            jobs --times 3                         | --times belongs to --watch
            schema db                              | schema 'db' is not one of definitions, output, postgresql, mariadb, h2
            schema h2 --application works          | --application and --retention go together: a role for each
            jobs --database harbour                | --database 'harbour' is not supported (expected jdbc:postgresql:..., jdbc:mariadb:... or jdbc:h2:...)
            """)
    void aValueThatCannotBeIsRefused(String args, String expected) {
        Said said = brume(args.split("\\s+"));

        assertThat(said.code()).isEqualTo(ExitCode.USAGE);
        assertThat(said.err().strip()).isEqualTo("brume: " + expected);
    }
}
