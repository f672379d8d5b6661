package dev.brume.definitions;

import static org.assertj.core.api.Assertions.assertThat;

import dev.brume.Job;
import dev.brume.internal.document.DocumentProblem;
import dev.brume.internal.document.JobDocument;
import java.util.ArrayList;
import java.util.List;
import java.util.Optional;
import java.util.SplittableRandom;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.api.Timeout;

/** Mutilated files: read, or refused with all their problems; what is read is written and read back the same. */
@Timeout(120)
class DefinitionFuzzTest {
    private static final String FILE = """
            zone: Atlantic/Azores
            calendars:
              feasts: {dates: [2026-12-24, 2026-12-25]}
              office-days: {weekly: MON-FRI, except: [2026-12-31]}
            jobs:
              dues:
                when:
                  - {cron: "0 9 L * MON-FRI", notOn: feasts, onlyOn: [office-days], ifDayOff: next, atMost: 9}
                  - {every: 90s, window: "08:00-18:00", from: 2026-11-23, until: "2027-01-01T00:00:00Z"}
                  - rule: |
                      DTSTART;TZID=America/Halifax:20270105T090000
                      RRULE:FREQ=MONTHLY;BYDAY=1SU,-1SU
                    gap: skip
                work: {program: [sh, -c, "echo 1"], environment: {A: "1"}}
                spread: 30s
              sweep: {when: [{afterEnd: 10m}, {once: in 5m}], work: {handler: sweep}, payload: {a: [1, 2]}}
            """;
    private static final String LETTERS = "0123456789:;,-{}[]#&*|>'\"\n\t abcdefFREQ=TZ\\ä\0!%@`";

    private final SplittableRandom random = new SplittableRandom(Long.getLong("brume.fuzz.seed", 11));

    private String mutilated() {
        StringBuilder mutant = new StringBuilder(FILE);
        for (int i = 0; i < 1 + random.nextInt(3); i++) {
            int at = random.nextInt(mutant.length());
            switch (random.nextInt(4)) {
                case 0 -> mutant.delete(at, Math.min(mutant.length(), at + 1 + random.nextInt(6)));
                case 1 -> mutant.insert(at, LETTERS.charAt(random.nextInt(LETTERS.length())));
                case 2 -> mutant.setCharAt(at, LETTERS.charAt(random.nextInt(LETTERS.length())));
                default -> mutant.insert(at, mutant.substring(at, Math.min(mutant.length(), at + random.nextInt(40))));
            }
        }
        return mutant.toString();
    }

    @Test
    void filesAreReadOrRefusedWithTheirProblems() {
        int accepted = 0;
        for (int i = 0; i < 4000; i++) {
            String text = mutilated();
            try {
                DefinitionFile file = DefinitionFile.parse("fuzz.yaml", "fuzz.yaml", text);
                file.jobs().forEach(DefinitionFuzzTest::comesBack);
                accepted++;
            } catch (DefinitionsException refused) {
                assertThat(refused.problems()).as(text).isNotEmpty().allSatisfy(problem -> {
                    assertThat(problem.line()).isPositive();
                    assertThat(problem.message()).isNotBlank();
                });
            }
        }
        assertThat(accepted).isGreaterThan(100);
    }

    private static void comesBack(Job job) {
        List<DocumentProblem> problems = new ArrayList<>();
        Optional<Job> read = JobDocument.read(job.name(), "", JobDocument.write(job), Optional.empty(), problems);
        assertThat(problems).isEmpty();
        assertThat(read)
                .hasValueSatisfying(back -> assertThat(JobDocument.write(back)).isEqualTo(JobDocument.write(job)));
    }
}
