package dev.brume.schedule;

import static org.assertj.core.api.Assertions.assertThat;
import static org.assertj.core.api.Assertions.assertThatThrownBy;

import java.time.Duration;
import java.time.Instant;
import java.time.ZoneId;
import java.util.List;
import java.util.Locale;
import java.util.Set;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.params.ParameterizedTest;
import org.junit.jupiter.params.provider.CsvSource;
import org.junit.jupiter.params.provider.ValueSource;

class MomentsAndZonesTest {
    private static final ZoneId LISBON = ZoneId.of("Europe/Lisbon");
    private static final Instant NOW = Instant.parse("2026-11-23T10:00:00Z");

    @ParameterizedTest
    @CsvSource({
        "2027-05-14T06:00:00Z, 2027-05-14T06:00:00Z",
        "2027-05-14T06:00:00+02:00, 2027-05-14T04:00:00Z",
        "2027-05-14T06:00, 2027-05-14T05:00:00Z",
        "2027-05-14 06:00, 2027-05-14T05:00:00Z",
        "2027-05-14, 2027-05-13T23:00:00Z",
        "2026-03-29T01:30, 2026-03-29T01:00:00Z",
        "2026-10-25T01:30, 2026-10-25T00:30:00Z",
        "2027-05-14T06:00:00.123456789Z, 2027-05-14T06:00:00.123456Z",
    })
    void aMomentIsAnInstantOrALocalTime(String text, String instant) {
        Moment moment = Moment.parse(text, LISBON);

        assertThat(moment.instant()).isEqualTo(instant);
        assertThat(Moment.parse(moment.text(), LISBON)).isEqualTo(moment);
    }

    @ParameterizedTest
    @ValueSource(strings = {"", "soon", "2027-13-01", "2027-05-14T25:00", "14.05.2027", "2027-05-14T06:00Q", "06:00"})
    void whatIsNoMomentIsRefused(String text) {
        assertThatThrownBy(() -> Moment.parse(text, LISBON))
                .isInstanceOf(ScheduleSyntaxException.class)
                .hasMessageContaining("is not a date and time");
    }

    @ParameterizedTest
    @CsvSource({
        "CET, Europe/Paris",
        "+01:00, Europe/Paris",
        "-04:00, America/Halifax",
        "Etc/GMT+1, Atlantic/Azores",
        "EST5EDT, America/New_York",
        "+05:45, Europe/Lisbon"
    })
    void aZoneThatNamesNoPlaceHasARegionToNameInstead(String zone, String region) {
        assertThat(Zones.regionInsteadOf(ZoneId.of(zone), NOW)).contains(region);
    }

    @ParameterizedTest
    @ValueSource(strings = {"UTC", "Z", "Etc/UTC", "GMT", "+00:00", "Europe/Lisbon", "Atlantic/Azores"})
    void regionsAndUtcNeedNone(String zone) {
        assertThat(Zones.regionInsteadOf(ZoneId.of(zone), NOW)).isEmpty();
    }

    // The ends of time.

    @Test
    void nothingFailsAtTheEndsOfTime() {
        Schedule nightly = CronSchedule.parse("30 1 * * *", LISBON);
        Terms terms = Terms.NONE.within(DailyWindow.parse("01:00-02:00"));
        List<Timeline> timelines = List.of(
                nightly,
                EverySchedule.of(Duration.ofHours(1)),
                nightly.with(terms),
                nightly.with(Terms.NONE.until(Moment.at(NOW, LISBON))),
                EverySchedule.of(Duration.ofHours(1)).with(terms),
                Union.of(List.of(nightly, EverySchedule.of(Duration.ofHours(1)))),
                Spread.of(nightly, Duration.ofSeconds(7)),
                OnceSchedule.at(NOW, LISBON));
        for (Timeline timeline : timelines) {
            assertThat(timeline.next(Instant.MAX)).as(timeline.toString()).isEmpty();
            assertThat(timeline.previous(Instant.MIN.plusSeconds(1))).isNotNull();
            assertThat(timeline.next(Instant.MIN)).isNotNull();
            assertThat(timeline.count(NOW, NOW)).isZero();
            assertThat(timeline.count(NOW, NOW.minusSeconds(1))).isZero();
            assertThat(timeline.between(NOW, NOW)).isEmpty();
        }
    }

    // Notes and words.

    @Test
    void notesAreAnUnmodifiableSetInTheirOrder() {
        Occurrence plain = Occurrence.plain(NOW, LISBON);
        Occurrence noted = plain.with(Note.SPREAD).with(Note.MOVED).with(Note.SPREAD);

        assertThat(plain.notes()).isEmpty();
        assertThat(noted.notes())
                .containsExactly(Note.MOVED, Note.SPREAD)
                .isSameAs(Notes.with(Set.of(Note.MOVED), Note.SPREAD));
        assertThatThrownBy(() -> noted.notes().clear()).isInstanceOf(UnsupportedOperationException.class);
        assertThat(plain.later(Duration.ZERO)).isSameAs(plain);
        assertThat(plain.later(Duration.ofSeconds(5)))
                .isEqualTo(new Occurrence(NOW.plusSeconds(5), plain.nominal(), LISBON, Set.of(Note.SPREAD)));
    }

    @Test
    void whereThereAreNoTextsOfALanguageAllOfItIsEnglish() {
        Schedule fridays = CronSchedule.parse("0 9 * 3 FRI", LISBON);

        assertThat(fridays.words(Locale.GERMAN)).isEqualTo("At 09:00 on Fridays in March, Lisbon time");
        assertThat(OnceSchedule.parse("2027-05-14T06:00", LISBON).words(Locale.FRENCH))
                .isEqualTo("Once, on Friday 14 May 2027 at 06:00, Lisbon time");
    }

    @ParameterizedTest
    @CsvSource({
        "PT1S, second, 1 second",
        "PT1M, minute, 1 minute",
        "PT90M, 1 hour and 30 minutes, 1 hour and 30 minutes",
        "P1DT1S, 1 day and 1 second, 1 day and 1 second",
        "PT1H1M1S, '1 hour, 1 minute and 1 second', '1 hour, 1 minute and 1 second'"
    })
    void durationsAreSaidInWholeUnits(Duration duration, String afterEvery, String alone) {
        Words words = Words.in(Locale.ENGLISH);

        assertThat(words.duration(duration)).isEqualTo(afterEvery);
        assertThat(words.amount(duration)).isEqualTo(alone);
    }

    @Test
    void aRuleWithoutAReaderOnTheClassPathSaysWhatIsMissing() {
        assertThatThrownBy(() -> RuleSchedule.parse("DTSTART:20270105T090000", LISBON))
                .satisfies(thrown ->
                        assertThat(thrown.toString() + thrown.getCause()).contains("dev.brume:brume-ical"));
    }
}
