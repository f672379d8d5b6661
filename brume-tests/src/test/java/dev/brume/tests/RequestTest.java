package dev.brume.tests;

import static dev.brume.tests.BrumeProcess.kind;
import static org.assertj.core.api.Assertions.assertThat;

import java.nio.file.Files;
import java.nio.file.Path;
import java.util.Map;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.api.io.TempDir;

/** Jobs whose work is a request, against the stand-in that ships with the command. */
class RequestTest {
    @TempDir
    private Path folder;

    private BrumeProcess serve(int port, String job) throws Exception {
        Files.writeString(folder.resolve("key"), "sesame-77\n");
        Files.writeString(
                folder.resolve("harbour.yaml"),
                "jobs:\n  notice:\n    when: {once: \"2030-01-01T00:00\", zone: UTC}\n"
                        + job.replace("PORT", Integer.toString(port)));
        BrumeProcess serve = BrumeProcess.serve(folder, Map.of(), "--format", "json");
        serve.await(kind("JOINED"));
        return serve;
    }

    private BrumeProcess.Result start(String... more) throws Exception {
        String[] arguments = new String[more.length + 4];
        System.arraycopy(new String[] {"run-now", "notice", "--wait", "60s"}, 0, arguments, 0, 4);
        System.arraycopy(more, 0, arguments, 4, more.length);
        return Commands.run(folder, arguments);
    }

    @Test
    void aRequestCarriesTheRunAndItsAnswerIsTheResult() throws Exception {
        try (BrumeProcess answer = BrumeProcess.start(
                        folder, "echo", "--port", "0", "--status", "503,200", "--retry-after", "1s");
                BrumeProcess serve = serve(
                        port(answer),
                        "    ifFailed: {attempts: 3, wait: 0s}\n    work:\n      http:\n"
                                + "        url: http://127.0.0.1:PORT/board?at=${plannedLocal}&job=${job}\n"
                                + "        headers: {Authorization: \"Bearer ${file:key}\"}\n"
                                + "        body: '{\"tide\": ${payload}, \"key\": \"${file:key}\"}'\n")) {
            BrumeProcess.Result started = start("--payload", "3.1");

            assertThat(started.out() + started.err()).contains("run 1 SUCCEEDED: {\"answer\":2}");
            assertThat(answer.nextLine())
                    .startsWith("1  POST /board?at=")
                    .contains("&job=notice")
                    .contains("brume-attempt=1")
                    .contains("brume-job=notice")
                    .contains("brume-run=1")
                    .contains("{\"tide\": 3.1, \"key\": \"sesame-77\"}")
                    .endsWith("-> 503");
            assertThat(answer.nextLine()).contains("brume-attempt=2").endsWith("-> 200");
            String shown = Commands.run(folder, "show", "1").out();
            assertThat(shown).contains("was answered 503, expected 200-299").doesNotContain("sesame");
            serve.terminate();
        }
    }

    @Test
    void aPayloadStaysInItsPlace() throws Exception {
        try (BrumeProcess answer = BrumeProcess.start(folder, "echo", "--port", "0", "--status", "200");
                BrumeProcess serve = serve(
                        port(answer),
                        "    work:\n      http:\n        url: http://127.0.0.1:PORT/board/${payload}/tides\n"
                                + "        body: '{\"note\": \"${json:payload}\"}'\n")) {
            assertThat(start("--payload", "a \"b\"\n/c").out()).contains("SUCCEEDED");
            assertThat(answer.nextLine())
                    .contains("POST /board/a%20%22b%22%0A%2Fc/tides")
                    .contains("{\"note\": \"a \\\"b\\\"\\n/c\"}");

            assertThat(start("--payload", "..").out()).contains("FAILED");
            assertThat(Commands.run(folder, "show", "2").out()).contains("its path has the segment '..'");
            serve.terminate();
        }
    }

    @Test
    void aStatusThatIsFinalEndsTheRunAndAMissingSecretIsNamed() throws Exception {
        try (BrumeProcess answer = BrumeProcess.start(folder, "echo", "--port", "0", "--status", "404");
                BrumeProcess serve = serve(
                        port(answer),
                        "    ifFailed: {attempts: 5, wait: 0s, giveUpOn: {statuses: [400-404]}}\n    work:\n      http:\n"
                                + "        url: http://127.0.0.1:PORT/board\n")) {
            BrumeProcess.Result started = start();

            assertThat(started.exitCode()).isEqualTo(1);
            assertThat(started.out()).contains("run 1 FAILED  FINAL_FAILURE");
            serve.terminate();
        }
        try (BrumeProcess serve = serve(1, "    work: {http: {url: \"${env:NOTICE_BOARD}/tides\"}}\n")) {
            String out = start().out();
            assertThat(out).contains("FAILED");
            String run = out.replaceAll("(?s)ordered run (\\d+) .*", "$1");
            assertThat(Commands.run(folder, "show", run).out())
                    .contains("the environment variable NOTICE_BOARD is not set on this instance");
            serve.terminate();
        }
    }

    private static int port(BrumeProcess answer) throws Exception {
        String line = answer.nextLine();
        assertThat(line).startsWith("answers at http://127.0.0.1:");
        return Integer.parseInt(line.replaceAll(".*:(\\d+)/", "$1"));
    }

    @Test
    void whatCannotBeSentIsAMistakeOfTheFile() throws Exception {
        Files.writeString(
                folder.resolve("harbour.yaml"),
                "jobs:\n  a: {work: {http: {url: ftp://isle/x}}}\n  b: {work: {http: {url: \"http://isle/${tide}\"}}}\n"
                        + "  c: {work: {http: {url: http://isle/, method: post}}}\n"
                        + "  d: {work: {http: {url: http://isle/, headers: {Host: isle}}}}\n"
                        + "  e: {work: {http: {url: http://isle/, expect: [200-700]}}}\n"
                        + "  f: {work: {program: [\"true\"]}, ifFailed: {waits: [1s, soon], factor: 2}}\n");

        BrumeProcess.Result checked = Commands.run(folder, "check", "harbour.yaml");

        assertThat(checked.exitCode()).isEqualTo(2);
        assertThat(checked.err() + checked.out())
                .contains("harbour.yaml:2:")
                .contains("is not an absolute URL (expected http://HOST/... or https://HOST/...)")
                .contains("harbour.yaml:3:")
                .contains("'${tide}' is not a place to fill (expected ${run}, ${job}, ")
                .contains("'post' is not a method (expected capital letters, such as POST)")
                .contains("'Host' is not a header that can be set")
                .contains("'200-700' is not a number or range within 100 to 599")
                .contains("harbour.yaml:7:")
                .contains("'soon'")
                .contains("does not go together with waits");
    }
}
