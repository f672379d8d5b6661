package dev.brume.cli;

import static org.assertj.core.api.Assertions.assertThat;

import com.fasterxml.jackson.jr.ob.JSON;
import com.networknt.schema.InputFormat;
import com.networknt.schema.Schema;
import com.networknt.schema.SchemaRegistry;
import com.networknt.schema.SpecificationVersion;
import dev.brume.definitions.Views;
import java.io.ByteArrayOutputStream;
import java.io.PrintStream;
import java.nio.charset.StandardCharsets;
import java.nio.file.Path;
import java.util.ArrayList;
import java.util.List;
import java.util.Map;
import org.junit.jupiter.api.BeforeAll;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.api.io.TempDir;
import org.junit.jupiter.params.ParameterizedTest;
import org.junit.jupiter.params.provider.CsvSource;

/** What commands print for programs, on the past of the demo, compared with its schema, which must know every member. */
class OutputSchemaTest {
    @TempDir
    private static Path folder;

    private static DemoWorld world;

    @BeforeAll
    static void liveThroughThePast() throws Exception {
        world = LivedWorld.in(folder.resolve("office"));
    }

    private static String brume(List<String> words) {
        ByteArrayOutputStream out = new ByteArrayOutputStream();
        ByteArrayOutputStream err = new ByteArrayOutputStream();
        BrumeCommand.run(words.toArray(String[]::new), new PrintStream(out), new PrintStream(err));
        String text = out.toString(StandardCharsets.UTF_8);
        assertThat(text).as("%s: %s", words, err).isNotBlank();
        return text;
    }

    private static String check(String output, String command) throws Exception {
        boolean lines = output.startsWith("export");
        List<String> words = new ArrayList<>(List.of(command.split(" ")));
        words.replaceAll(word -> word.equals("FILE") ? world.definitions().toString() : word);
        if (!command.startsWith("check")) {
            words.addAll(List.of("--data", world.folder().toString()));
        }
        if (!lines) {
            words.addAll(List.of("--format", "json"));
        }
        String text = brume(words);
        Schema schema = schema(output);
        for (String document : lines ? text.lines().toList() : List.of(text)) {
            assertThat(schema.validate(document, InputFormat.JSON))
                    .as("%s printed %s", words, document.substring(0, Math.min(500, document.length())))
                    .isEmpty();
        }
        return text;
    }

    private static Schema schema(String output) throws Exception {
        Map<String, Object> schema = Views.schema(output);
        refuseWhatIsNotNamed(schema);
        return SchemaRegistry.withDefaultDialect(SpecificationVersion.DRAFT_2020_12)
                .getSchema(JSON.std.asString(schema), InputFormat.JSON);
    }

    @SuppressWarnings("unchecked")
    private static void refuseWhatIsNotNamed(Object schema) {
        if (schema instanceof Map<?, ?> map) {
            map.values().forEach(OutputSchemaTest::refuseWhatIsNotNamed);
            if (map.containsKey("properties")) {
                ((Map<String, Object>) map).putIfAbsent("additionalProperties", false);
            }
        } else if (schema instanceof List<?> list) {
            list.forEach(OutputSchemaTest::refuseWhatIsNotNamed);
        }
    }

    @ParameterizedTest
    @CsvSource(delimiter = '|', textBlock = """
            jobs                         | jobs
            runs                         | runs --count 500 --from 7d
            runs --spans                 | runs --spans --from 7d
            tally                        | tally --from 7d
            stats                        | stats --from 7d
            why                          | why harbour-dues
            why                          | why harbour-dues --at 24h
            doctor                       | doctor
            changes                      | changes --count 100
            instances                    | instances --all
            calendars                    | calendars
            pauses                       | pauses
            namespaces                   | namespaces
            named-leases                 | named-leases
            one-off list                 | one-off list
            check                        | check FILE
            diff                         | diff FILE
            preview                      | preview --job archive-sync --count 3
            preview --around-transitions | preview --job archive-sync --around-transitions
            preview --month              | preview --job archive-sync --month
            explain                      | explain --job archive-sync
            rehearse                     | rehearse FILE --against store --for 1d
            rehearse                     | rehearse FILE --for 1d --lose quay-2@04:10 --outage 03:00/30m
            notices                      | notices
            notices causes               | notices causes --over
            notices channels             | notices channels
            notices rehearse             | notices rehearse
            keep                         | keep
            allowance                    | allowance --as office harbour --own
            seal                         | seal
            seal head                    | seal head
            seal verify                  | seal verify
            roll-up --check              | roll-up --check --from 24h
            roll-up                      | roll-up
            export ledger                | export ledger
            export changes               | export changes
            """)
    void whatLooksPrint(String output, String command) throws Exception {
        check(output, command);
    }

    @ParameterizedTest
    @CsvSource(delimiter = '|', textBlock = """
            pause        | pause harbour-dues
            resume       | resume harbour-dues
            pause        | pause harbour-dues --from +2h --until +4h --leave-out
            resume       | resume harbour-dues --planned
            rename       | rename tide-print tide-sheets
            rename       | rename tide-sheets tide-print
            resume       | resume harbour-dues
            run-now      | run-now harbour-dues
            skip         | skip harbour-dues
            backfill     | backfill harbour-dues --from 2026-11-20
            one-off add  | one-off add bridge-closure winter --at 2027-12-24T10:00:00Z
            one-off move | one-off move bridge-closure winter --at 2027-12-25T10:00:00Z
            one-off drop | one-off drop bridge-closure winter
            definitions accept | definitions accept harbour.yaml
            drain        | drain quay-9
            sync         | sync FILE --yes --take-over
            rerun        | rerun --outcome failed --most 5
            rerun        | rerun --outcome failed --job lamp-inspection --yes
            cancel       | cancel --state waiting
            cancel       | cancel --state waiting --yes
            drop         | drop fog-signal-test
            drop         | drop --namespace nobody
            pause        | pause --namespace nobody
            restored     | restored
            """)
    void whatOrdersAnswer(String output, String command) throws Exception {
        check(output, command);
    }

    @Test
    void namespacesAreListedHoweverLongTheirAllowanceIs() throws Exception {
        List<String> data = List.of("--data", world.folder().toString());
        List<String> allow = new ArrayList<>(List.of("allowance", "pier", "--jobs", "5", "--interval", "5m"));
        allow.addAll(data);
        brume(allow);
        List<String> list = new ArrayList<>(List.of("namespaces"));
        list.addAll(data);

        assertThat(brume(list)).contains("pier").contains("at most 5 jobs; occurrences at least 5m apart");
    }

    @Test
    void aRunInFullSaysWhatItPrintedAndOneThatWasSkippedWhy() throws Exception {
        String tried = numberOf("runs --job lamp-inspection --outcome succeeded --from 7d --count 1");
        String skipped = numberOf("runs --outcome skipped --from 220d --count 1");

        assertThat(check("show", "show " + tried)).contains("\"attempt\" : 1").contains("\"why\" : null");
        assertThat(check("show", "show " + skipped)).contains("\"why\" : \"");
        assertThat(check("rerun", "rerun " + tried)).contains("\"rerunOf\" : \"" + tried + "\"");
        assertThat(check("erase", "erase --because asked " + tried)).contains("erased output of 1 attempt");
        assertThat(check("show", "show " + tried)).contains("\"because\" : \"asked\"");
        check("seal verify", "seal verify");
        assertThat(check("cancel", "cancel " + tried)).contains("\"done\" : false");
    }

    private static String numberOf(String command) throws Exception {
        List<Map<String, Object>> runs = new ArrayList<>();
        JSON.std.listFrom(check("runs", command)).forEach(run -> runs.add(castOf(run)));
        assertThat(runs).isNotEmpty();
        return runs.get(0).get("run").toString();
    }

    @SuppressWarnings("unchecked")
    private static Map<String, Object> castOf(Object run) {
        return (Map<String, Object>) run;
    }
}
