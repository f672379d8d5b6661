package dev.brume.tests;

import static org.assertj.core.api.Assertions.assertThat;
import static org.assertj.core.api.Assertions.tuple;

import dev.brume.Brume;
import dev.brume.Job;
import dev.brume.JobName;
import dev.brume.Keep;
import dev.brume.history.IdRanges;
import dev.brume.history.RunRow;
import dev.brume.history.RunView;
import dev.brume.history.SealHead;
import dev.brume.history.SealedKind;
import dev.brume.history.Span;
import dev.brume.insight.internal.Effort;
import dev.brume.insight.internal.VirtualOffice;
import dev.brume.insight.internal.VirtualTime;
import dev.brume.insight.seal.CheckedErasure;
import dev.brume.insight.seal.SealCheck;
import dev.brume.internal.duty.Settings;
import dev.brume.memory.MemoryStore;
import dev.brume.spi.LedgerLine;
import java.time.Duration;
import java.time.Instant;
import java.time.ZoneId;
import java.time.ZoneOffset;
import java.util.ArrayList;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.params.ParameterizedTest;
import org.junit.jupiter.params.provider.EnumSource;

/** Each way of tampering with a sealed record, and what is no tampering, on every database. */
class SealTest {
    private static final JobName TIDES = JobName.parse("tides");

    private final List<LedgerLine> past = new ArrayList<>();

    /** Lines that the engine has made of a day, put into a database's ledger as they are. */
    private void history(Db.Fresh fresh, Brume brume) {
        brume.define(Job.named(TIDES).every(Duration.ofHours(1)).program("true").build());
        long job = brume.history().job(TIDES).orElseThrow().row().id();
        Instant end = brume.history().now();
        VirtualTime time = new VirtualTime(end.minus(Duration.ofDays(1)));
        MemoryStore memory = new MemoryStore(time, 1000, past::add, span -> {});
        try (Brume then =
                Brume.on(memory).takesPrograms().instance("then").time(time).build()) {
            then.define(
                    Job.named(TIDES).every(Duration.ofHours(1)).program("true").build());
            VirtualOffice office = new VirtualOffice(
                    memory, time, run -> Effort.of(Duration.ofSeconds(5)).returning("3.1 m"), event -> {}, 1);
            office.start(
                    new Settings("quay-1", "host", 1, Map.of("main", 4), Duration.ofDays(9), Duration.ofHours(1), 100));
            office.advanceTo(end);
        }
        fresh.store().transact(tx -> {
            tx.addLines(past.stream()
                    .map(line -> new LedgerLine(
                            tx.take(1).ids().get(0),
                            RunRow.Owed.scheduled(
                                    job,
                                    line.owed().planned(),
                                    ZoneId.of(line.owed().zone())),
                            1,
                            line.lane(),
                            line.readyAt(),
                            line.outcome(),
                            line.reason(),
                            line.attempts(),
                            line.payload(),
                            line.result()))
                    .toList());
            return null;
        });
    }

    private static Brume office(Db.Fresh fresh) {
        return Brume.on(fresh.store()).takesPrograms().instance("office").build();
    }

    private static SealCheck.Result check(Brume brume) {
        return SealCheck.of(brume.history(), Optional.empty());
    }

    private static String problem(Brume brume) {
        return check(brume).problem().orElse("none");
    }

    /** Takes away all that keeps rows as they are, as whoever owns the tables can. */
    private static void unguard(Db.Fresh fresh) throws Exception {
        for (String table : List.of("ledger", "seal", "change", "span", "output", "definition", "content", "erasure")) {
            fresh.withoutGuard("brume_" + table);
        }
    }

    @Test
    void whatRetentionRemovedOfAJobThatWasDroppedIsStillAccountedForWhenItsNameIsAnothers() throws Exception {
        try (Db.Fresh fresh = Db.H2.fresh();
                Brume brume = office(fresh)) {
            history(fresh, brume);
            brume.define(Job.named(TIDES)
                    .every(Duration.ofHours(1))
                    .program("true")
                    .keep(Keep.newest(1))
                    .build());
            brume.orders("auditor", "").seal();
            assertThat(brume.orders("ines", "").removeBeyondBounds()).isPositive();
            assertThat(problem(brume)).isEqualTo("none");

            brume.orders("ines", "").drop(TIDES);
            brume.define(Job.named(TIDES).program("true").build());
            assertThat(problem(brume)).isEqualTo("none");
        }
    }

    @ParameterizedTest
    @EnumSource(Db.class)
    void linesOfAJobThatWasRenamedAreSealedUnderItsFirstName(Db db) throws Exception {
        try (Db.Fresh fresh = db.fresh();
                Brume brume = office(fresh)) {
            history(fresh, brume);
            brume.orders("auditor", "").seal();
            brume.orders("ines", "").rename(TIDES, JobName.parse("sheets"));
            brume.orders("ines", "").rename(JobName.parse("sheets"), JobName.parse("leaves"));
            brume.orders("auditor", "").seal();
            assertThat(problem(brume)).isEqualTo("none");

            fresh.sql("update " + fresh.table("brume_former_name") + " set name_key = 'main/dues' where name_key = '"
                    + TIDES.namespace() + "/" + TIDES.name() + "'");
            assertThat(problem(brume)).contains("ledger line of run");
        }
    }

    @ParameterizedTest
    @EnumSource(Db.class)
    void aNoteOfRetentionIsBelievedOnlyWithinTheBoundsThatWereInForce(Db db) throws Exception {
        try (Db.Fresh fresh = db.fresh();
                Brume brume = office(fresh)) {
            history(fresh, brume);
            SealHead head = brume.orders("auditor", "").seal();
            unguard(fresh);
            RunView third = brume.history().lines(0, IdRanges.NONE, 3).get(2);
            fresh.sql("delete from " + fresh.table("brume_ledger") + " where run_id = " + third.id());
            for (String note : List.of(
                    "anything at all; sealed lines: x",
                    note(third, third.owed().planned(), "the newest 1"),
                    note(third, third.owed().planned(), "everything"))) {
                forge(fresh, db, note);
                assertThat(problem(brume))
                        .startsWith("ledger line of run " + third.id() + " was removed")
                        .contains("by nobody from elsewhere")
                        .contains("is not believed");
            }
            SealCheck.Result result =
                    SealCheck.of(brume.history(), Optional.of(new SealCheck.Kept(head.number(), head.digest())));
            assertThat(result.removals())
                    .hasSize(3)
                    .allSatisfy(removal -> assertThat(removal.doubt()).isPresent());
        }
    }

    private static String note(RunView line, Instant planned, String kept) {
        return "1 ledger line, planned from " + planned + " to " + planned + "; kept: " + kept + "; sealed lines: "
                + line.id();
    }

    private static void forge(Db.Fresh fresh, Db db, String note) throws Exception {
        fresh.sql("insert into " + fresh.table("brume_change") + " (at, kind, who, host, body, because) values ("
                + (db == Db.MARIADB ? "utc_timestamp(6)" : "current_timestamp")
                + ", 'REMOVED', 'nobody', 'elsewhere', '" + note + "', '')");
    }

    @Test
    void aNoteThatStaysWithinTheBoundsIsHeldAgainstWhatTheSealsKnowOfTheLine() throws Exception {
        for (Keep keep : List.of(Keep.upTo(Duration.ofHours(2)), Keep.newest(25))) {
            try (Db.Fresh fresh = Db.H2.fresh();
                    Brume brume = office(fresh)) {
                past.clear();
                history(fresh, brume);
                brume.orders("ines", "").keep(keep);
                brume.orders("auditor", "").seal();
                unguard(fresh);
                List<RunView> lines = brume.history().lines(0, IdRanges.NONE, 100);
                RunView young = lines.get(lines.size() - 1);
                Instant old = lines.get(0).owed().planned();
                fresh.sql("delete from brume_ledger where run_id = " + young.id());

                forge(fresh, Db.H2, note(young, old, keep.toString()));
                assertThat(problem(brume)).contains("which is not in the time that it states");

                fresh.sql("delete from brume_change where who = 'nobody'");
                forge(fresh, Db.H2, note(young, young.owed().planned(), keep.toString()));
                assertThat(problem(brume))
                        .startsWith("ledger line of run " + young.id() + " was removed")
                        .containsAnyOf(
                                "which its bounds kept",
                                "it says that the newest 25 were kept, and only " + (lines.size() - 1) + " were left");
            }
        }
    }

    @Test
    void aNoteThatWasThereBeforeALineWasSealedDoesNotExplainWhereItWent() throws Exception {
        try (Db.Fresh fresh = Db.H2.fresh();
                Brume brume = office(fresh)) {
            history(fresh, brume);
            brume.orders("ines", "").keep(Keep.newest(10));
            RunView first = brume.history().lines(0, IdRanges.NONE, 1).get(0);
            forge(fresh, Db.H2, note(first, first.owed().planned(), "the newest 10"));
            brume.orders("auditor", "").seal();
            assertThat(problem(brume)).isEqualTo("none");
            unguard(fresh);
            fresh.sql("delete from brume_ledger where run_id = " + first.id());
            assertThat(problem(brume)).contains("it came before ledger line of run " + first.id() + " was sealed");
        }
    }

    @ParameterizedTest
    @EnumSource(Db.class)
    void spansDefinitionsAndWhatRunsPrintedAreSealedToo(Db db) throws Exception {
        try (Db.Fresh fresh = db.fresh();
                Brume brume = office(fresh)) {
            history(fresh, brume);
            RunView first = brume.history().lines(0, IdRanges.NONE, 1).get(0);
            long job = first.owed().job();
            Instant planned = first.owed().planned();
            fresh.sql("insert into " + fresh.table("brume_output")
                    + " (run_id, planned_at, attempt, body, bytes, omitted) select run_id, planned_at, 1, 'high water', 10, 0 from "
                    + fresh.table("brume_ledger") + " where run_id = " + first.id());
            fresh.store().transact(tx -> {
                tx.addSpans(List.of(new Span(
                        job, 1, planned, planned.plusSeconds(9), planned, planned.plusSeconds(8), 4, "MISSED")));
                return null;
            });
            brume.orders("auditor", "").seal();
            SealCheck.Result good = check(brume);
            assertThat(good.problem()).isEmpty();
            assertThat(good.count(SealedKind.SPAN)).isEqualTo(1);
            assertThat(good.count(SealedKind.DEFINITION)).isEqualTo(1);
            unguard(fresh);

            tamper(fresh, brume, "brume_output", "body", "low water", "ledger line of run " + first.id());
            tamper(fresh, brume, "brume_span", "reason", "PAUSED", "span 1 of tides");
            tamper(fresh, brume, "brume_definition", "definition", "{}", "version 1 of tides");
            fresh.sql("delete from " + fresh.table("brume_output"));
            assertThat(problem(brume)).startsWith("ledger line of run " + first.id() + " was altered");
        }
    }

    @ParameterizedTest
    @EnumSource(Db.class)
    void whatIsErasedIsListedAndWhatElseChangesIsStillNoticed(Db db) throws Exception {
        try (Db.Fresh fresh = db.fresh();
                Brume brume = office(fresh)) {
            history(fresh, brume);
            List<RunView> lines = brume.history().lines(0, IdRanges.NONE, 3);
            long first = lines.get(0).id();
            long second = lines.get(1).id();
            brume.orders("ines", "before any seal").erase(first);
            SealHead head = brume.orders("auditor", "").seal();
            brume.orders("ines", "customer 4711 asked").erase(second);

            SealCheck.Result erased = check(brume);
            assertThat(erased.problem()).isEmpty();
            assertThat(erased.erasures())
                    .extracting(checked -> checked.erasure().run(), CheckedErasure::doubt)
                    .containsExactly(tuple(first, Optional.empty()), tuple(second, Optional.empty()));
            assertThat(SealCheck.of(brume.history(), Optional.of(new SealCheck.Kept(head.number(), head.digest())))
                            .erasures())
                    .as("since then")
                    .extracting(checked -> checked.erasure().run())
                    .containsExactly(second);

            unguard(fresh);
            String contents = fresh.table("brume_content");
            long third = lines.get(2).id();
            fresh.sql("update " + contents + " set result = null where run_id = " + third);
            assertThat(problem(brume)).startsWith("ledger line of run " + third + " was altered");
            fresh.sql("update " + contents + " set result = '3.1 m' where run_id = " + third);
            fresh.sql("insert into " + contents
                    + " (run_id, planned_at, result) select run_id, planned_at, 'another' from "
                    + fresh.table("brume_ledger") + " where run_id = " + second);
            assertThat(problem(brume)).startsWith("ledger line of run " + second + " was altered");
            fresh.sql("delete from " + contents + " where run_id = " + second);
            assertThat(problem(brume)).isEqualTo("none");
            fresh.sql("update " + fresh.table("brume_erasure") + " set who = 'anna' where run_id = " + second);
            assertThat(problem(brume))
                    .startsWith("the content of run " + second + " was erased at ")
                    .contains("of the change log says that ines had it erased");
            fresh.sql("delete from " + fresh.table("brume_erasure") + " where run_id = " + second);
            assertThat(problem(brume)).startsWith("ledger line of run " + second + " was altered");
        }
    }

    private static void tamper(Db.Fresh fresh, Brume brume, String table, String column, String value, String what)
            throws Exception {
        String name = fresh.table(table);
        String before = fresh.text("select " + column + " from " + name);
        fresh.sql("update " + name + " set " + column + " = '" + value + "'");
        assertThat(problem(brume)).startsWith(what + " was altered (it is in seal 1");
        fresh.sql("update " + name + " set " + column + " = '" + before + "'");
        assertThat(problem(brume)).isEqualTo("none");
    }

    @ParameterizedTest
    @EnumSource(Db.class)
    void eachKindOfTamperingIsNamedByItsFirstLine(Db db) throws Exception {
        try (Db.Fresh fresh = db.fresh();
                Brume brume = office(fresh)) {
            history(fresh, brume);
            SealHead head = brume.orders("auditor", "").seal();
            assertThat(head.number()).isEqualTo(1);
            assertThat(problem(brume)).isEqualTo("none");
            SealCheck.Result good = check(brume);
            assertThat(good.count(SealedKind.LINE)).isEqualTo(past.size()).isGreaterThan(20);
            assertThat(good.unsealed()).isZero();
            unguard(fresh);
            String ledger = fresh.table("brume_ledger");
            String changes = fresh.table("brume_change");
            RunView third = brume.history().lines(0, IdRanges.NONE, 3).get(2);

            fresh.sql("update " + ledger + " set lane = 'night' where run_id = " + third.id());
            assertThat(problem(brume)).startsWith("ledger line of run " + third.id() + " was altered (it is in seal 1");
            fresh.sql("update " + ledger + " set lane = '" + third.lane() + "' where run_id = " + third.id());
            assertThat(problem(brume)).isEqualTo("none");

            fresh.sql("update " + changes + " set who = 'nobody' where id = (select max(id) from (select id from "
                    + changes + ") x)");
            assertThat(problem(brume)).startsWith("change log line ").contains("was altered");
            fresh.sql("update " + changes + " set who = 'office' where who = 'nobody'");
            assertThat(problem(brume)).isEqualTo("none");

            fresh.sql("update " + ledger + " set run_id = 100000 + run_id where run_id = " + third.id());
            assertThat(problem(brume)).startsWith("ledger line of run " + third.id() + " was removed");
            fresh.sql("update " + ledger + " set run_id = run_id - 100000 where run_id > 100000");
            assertThat(problem(brume)).isEqualTo("none");

            fresh.sql("update " + ledger + " set run_id = " + third.id() + " where run_id = " + (third.id() + 1));
            assertThat(problem(brume)).startsWith("ledger line of run " + third.id() + " is there twice");
        }
    }

    @ParameterizedTest
    @EnumSource(Db.class)
    void aLineThatWasAddedAmongSealedOnesIsNamed(Db db) throws Exception {
        try (Db.Fresh fresh = db.fresh();
                Brume brume = office(fresh)) {
            history(fresh, brume);
            brume.orders("auditor", "").seal();

            late(fresh, brume, 0);

            assertThat(problem(brume)).isEqualTo("ledger line of run 0 was added: no seal knows of it");
        }
    }

    @ParameterizedTest
    @EnumSource(Db.class)
    void sealsThatAreAlteredRemovedOrMadeAnewAreNoticed(Db db) throws Exception {
        try (Db.Fresh fresh = db.fresh();
                Brume brume = office(fresh)) {
            history(fresh, brume);
            brume.orders("auditor", "").seal();
            brume.define(Job.named("lamps").program("true").build());
            SealHead head = brume.orders("auditor", "").seal();
            assertThat(head.number()).isEqualTo(2);
            SealCheck.Kept kept = new SealCheck.Kept(head.number(), head.digest());
            assertThat(SealCheck.of(brume.history(), Optional.of(kept)).problem())
                    .isEmpty();
            unguard(fresh);
            String seals = fresh.table("brume_seal");

            fresh.sql("update " + seals + " set sealed_by = 'someone' where number = 1");
            assertThat(problem(brume)).startsWith("seal 1 of ").contains("its own row was altered");
            fresh.sql("update " + seals + " set sealed_by = 'auditor' where number = 1");
            fresh.sql("delete from " + seals + " where number = 2");
            assertThat(problem(brume)).startsWith("the head names seal 2, and the newest that is there is 1");
            fresh.sql("delete from " + seals);
            fresh.sql("update " + fresh.table("brume_seal_head")
                    + " set number = 0, digest = '" + SealHead.NOTHING
                    + "', high_line = 0, open_line = '', high_change = 0, open_change = '', high_span = 0,"
                    + " open_span = '', high_definition = 0, open_definition = ''");
            SealHead anew = brume.orders("forger", "").seal();
            assertThat(problem(brume)).as("all made anew").isEqualTo("none");
            assertThat(anew.number()).isEqualTo(1);
            assertThat(SealCheck.of(brume.history(), Optional.of(kept)).problem())
                    .hasValueSatisfying(
                            text -> assertThat(text).contains("names seal 2").contains("seals were removed"));
            assertThat(SealCheck.of(brume.history(), Optional.of(new SealCheck.Kept(1, head.digest())))
                            .problem())
                    .hasValueSatisfying(text -> assertThat(text).contains("the seals were made anew"));
        }
    }

    @ParameterizedTest
    @EnumSource(Db.class)
    void lateLinesAndRetentionAreNoTampering(Db db) throws Exception {
        try (Db.Fresh fresh = db.fresh();
                Brume brume = office(fresh)) {
            List<Long> early = fresh.store().transact(tx -> tx.take(1).ids());
            history(fresh, brume);
            brume.orders("auditor", "").seal();
            late(fresh, brume, early.get(0));
            assertThat(check(brume).unsealed()).isEqualTo(1);
            assertThat(brume.orders("auditor", "")
                            .seal()
                            .reach(SealedKind.LINE)
                            .open()
                            .contains(early.get(0)))
                    .isFalse();
            assertThat(problem(brume)).isEqualTo("none");

            Instant old = past.get(0).owed().planned();
            fresh.store().transact(tx -> {
                long job = brume.history().job(TIDES).orElseThrow().row().id();
                tx.addSpans(List.of(new Span(job, 1, old, old.plusSeconds(9), old, old.plusSeconds(8), 4, "MISSED")));
                return null;
            });
            brume.orders("keeper", "").keep(Keep.newest(10));
            long removed = brume.orders("keeper", "").removeBeyondBounds();

            assertThat(removed).isGreaterThan(5);
            SealCheck.Result result = check(brume);
            assertThat(result.problem()).isEmpty();
            assertThat(result.removed()).as("and a span").isEqualTo(removed + 1);
            assertThat(result.removals())
                    .hasSize(2)
                    .allSatisfy(removal -> assertThat(removal.doubt()).isEmpty());
            assertThat(result.removals().get(0).line().change().text()).startsWith("1 span, planned from " + old);
            brume.orders("auditor", "").seal();
            assertThat(problem(brume)).as("with its notes sealed").isEqualTo("none");
        }
    }

    /** A run that was planned first and ends last. */
    private void late(Db.Fresh fresh, Brume brume, long run) {
        long job = brume.history().job(TIDES).orElseThrow().row().id();
        LedgerLine like = past.get(0);
        fresh.store().transact(tx -> {
            tx.addLines(List.of(new LedgerLine(
                    run,
                    RunRow.Owed.scheduled(job, like.owed().planned().plusSeconds(1), ZoneOffset.UTC),
                    1,
                    "main",
                    like.readyAt(),
                    like.outcome(),
                    Optional.empty(),
                    like.attempts(),
                    Optional.empty(),
                    Optional.empty())));
            return null;
        });
    }

    @Test
    void whatIsNotSealedIsNotCalledSound() {
        try (Brume brume =
                Brume.on(new MemoryStore()).takesPrograms().instance("office").build()) {
            assertThat(check(brume).seals()).isZero();
            brume.define(Job.named(TIDES).program("true").build());
            assertThat(brume.orders("auditor", "").seal().number()).isEqualTo(1);
            assertThat(problem(brume)).isEqualTo("none");
        }
    }
}
