package dev.brume.testkit;

import static org.assertj.core.api.Assertions.assertThat;
import static org.assertj.core.api.Assertions.assertThatThrownBy;

import dev.brume.DefinitionSet;
import dev.brume.IfBusy;
import dev.brume.Job;
import dev.brume.JobName;
import dev.brume.OneOff;
import dev.brume.Rate;
import dev.brume.RunState;
import dev.brume.history.RunFilter;
import dev.brume.insight.why.Question;
import java.time.Duration;
import java.time.Instant;
import java.util.ArrayList;
import java.util.List;
import java.util.Map;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.api.extension.ExtendWith;

/** Limits of how many runs begin in a time. */
@ExtendWith(VirtualBrumeExtension.class)
class RatesTest {
    private static final Duration MINUTE = Duration.ofMinutes(1);

    private final List<Instant> begun = new ArrayList<>();
    private final List<String> order = new ArrayList<>();

    private static Job.Builder letters() {
        return Job.named("letters").limit("post").ifBusy(IfBusy.alongside(1000));
    }

    private void define(VirtualBrume harbour, Rate rate, Job.Builder... jobs) {
        harbour.brume().handler("post", run -> {
            begun.add(harbour.now());
            order.add(run.payload().orElse(""));
        });
        List<Job> built =
                List.of(jobs).stream().map(job -> job.handler("post").build()).toList();
        harbour.brume().define(DefinitionSet.of("test", built).withRates(Map.of("post", rate)));
    }

    private static long waiting(VirtualBrume harbour) {
        return harbour.brume()
                .history()
                .runs(RunFilter.newest(1000).withState(RunState.WAITING))
                .size();
    }

    /** In no stretch of a time, wherever it begins, more began than the rate says. */
    private void never(Rate rate) {
        for (Instant from : begun) {
            assertThat(begun)
                    .filteredOn(at -> !at.isBefore(from) && at.isBefore(from.plus(rate.per())))
                    .hasSizeLessThanOrEqualTo(rate.starts());
        }
    }

    @Test
    @BeginningAt("2026-03-02T10:00:01Z")
    void noMoreBeginInAnyMinuteThanTheRateSaysAndAllBeginInTheEnd(VirtualBrume harbour) {
        Rate rate = Rate.of(3, MINUTE);
        define(harbour, rate, letters());
        for (int i = 0; i < 20; i++) {
            harbour.brume()
                    .oneOffs()
                    .add(OneOff.of("letters", "k" + i).at(harbour.now()).payload("letter " + i));
            harbour.elapse(Duration.ofMillis(700));
        }
        harbour.settle();
        assertThat(begun).hasSize(3);
        assertThat(waiting(harbour)).isEqualTo(17);
        Question why = new Question(
                harbour.brume().history(),
                harbour.brume().history().job(JobName.parse("letters")).orElseThrow(),
                harbour.now(),
                Instant::toString);
        assertThat(why.aboutNow().sentence()).contains("waits for the limit post (3 in 1m have begun, the next may at");

        harbour.advance(Duration.ofMinutes(3));
        assertThat(begun)
                .as("at once, and after each minute and at most a sixtieth")
                .hasSize(9);
        harbour.advance(Duration.ofMinutes(4));
        assertThat(begun).hasSize(20);
        assertThat(waiting(harbour)).isZero();
        never(rate);
    }

    @Test
    @BeginningAt("2026-03-02T10:00:01Z")
    void whoIsUrgentBeginsFirstAndAHigherRateLetsMoreBeginAtOnce(VirtualBrume harbour) {
        define(
                harbour,
                Rate.of(1, MINUTE),
                letters(),
                Job.named("alarms").limit("post").priority(9));
        for (int i = 0; i < 5; i++) {
            harbour.brume()
                    .oneOffs()
                    .add(OneOff.of("letters", "k" + i).at(harbour.now()).payload("letter"));
        }
        harbour.settle();
        harbour.brume()
                .oneOffs()
                .add(OneOff.of("alarms", "fire").at(harbour.now()).payload("alarm"));
        harbour.advance(MINUTE.multipliedBy(2));
        assertThat(order).startsWith("letter", "alarm");

        define(
                harbour,
                Rate.of(30, MINUTE),
                letters(),
                Job.named("alarms").limit("post").priority(9));
        harbour.settle();
        assertThat(order).hasSize(6);
        assertThat(waiting(harbour)).isZero();
    }

    @Test
    @BeginningAt("2026-03-02T10:00:01Z")
    void moreThanAFewOfOneJobBeginTogetherOnceTheyMay(VirtualBrume harbour) {
        Rate rate = Rate.of(40, MINUTE);
        define(harbour, rate, letters());
        for (int i = 0; i < 100; i++) {
            harbour.brume().oneOffs().add(OneOff.of("letters", "k" + i).at(harbour.now()));
        }
        harbour.settle();
        assertThat(begun).hasSize(40);
        harbour.advance(Duration.ofSeconds(62));
        assertThat(begun).hasSize(80);
        harbour.advance(Duration.ofSeconds(62));
        assertThat(begun).hasSize(100);
        never(rate);
    }

    @Test
    void aRateThatIsNoneIsRefused() {
        assertThatThrownBy(() -> Rate.of(0, MINUTE)).hasMessageContaining("0 starts are outside 1 to 1000000");
        assertThatThrownBy(() -> Rate.of(1, Duration.ofDays(2))).hasMessageContaining("per: 2d is outside 1s to 1d");
        assertThatThrownBy(() -> Rate.of(1, Duration.ofMillis(1500))).hasMessageContaining("parts of a second");
        assertThatThrownBy(() -> DefinitionSet.of("test", List.of()).withRates(Map.of("no name!", Rate.of(1, MINUTE))))
                .hasMessageContaining("no name!");
    }
}
