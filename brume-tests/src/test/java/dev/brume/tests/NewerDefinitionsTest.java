package dev.brume.tests;

import static org.assertj.core.api.Assertions.assertThat;
import static org.assertj.core.api.Assertions.assertThatThrownBy;

import dev.brume.Brume;
import dev.brume.Defined;
import dev.brume.Event;
import dev.brume.Job;
import dev.brume.StoreException;
import dev.brume.history.RunFilter;
import dev.brume.history.RunView;
import dev.brume.internal.document.JobDocument;
import java.sql.SQLException;
import java.time.Duration;
import java.util.List;
import java.util.Set;
import java.util.concurrent.ConcurrentHashMap;
import java.util.concurrent.CountDownLatch;
import java.util.concurrent.TimeUnit;
import org.junit.jupiter.params.ParameterizedTest;
import org.junit.jupiter.params.provider.EnumSource;

/** During a rolling deploy, what a newer version defined is left alone by an older one, and said so. */
class NewerDefinitionsTest {
    private static final Job TIDES =
            Job.named("tides").every(Duration.ofSeconds(1)).handler("note").build();
    private static final Job GLOW =
            Job.named("glow").every(Duration.ofSeconds(1)).handler("note").build();

    private final Set<String> problems = ConcurrentHashMap.newKeySet();
    private final CountDownLatch told = new CountDownLatch(1);
    private final CountDownLatch ran = new CountDownLatch(2);

    @ParameterizedTest
    @EnumSource
    void aJobOfANewerFormatWaitsForANewerInstance(Db db) throws Exception {
        try (Db.Fresh fresh = db.fresh()) {
            definedByANewerVersion(fresh, JobDocument.FORMAT + 1);
            Brume older = older(fresh);

            assertThat(told.await(20, TimeUnit.SECONDS)).isTrue();
            assertThat(ran.await(20, TimeUnit.SECONDS)).isTrue();
            assertThat(older.define(GLOW).kind()).isEqualTo(Defined.Kind.OUTDATED);
            older.stop(Duration.ofSeconds(10));

            assertThat(fresh.store().history().runs(RunFilter.newest(100)))
                    .extracting(RunView::job)
                    .containsOnly(TIDES.name());
            assertThat(problems)
                    .anyMatch(text -> text.startsWith("a job that is due goes by a definition that a newer"));
            assertThatThrownBy(() -> fresh.store().history().jobs())
                    .isInstanceOf(StoreException.class)
                    .hasMessageContaining("glow was written by a newer version of Brume");
        }
    }

    @ParameterizedTest
    @EnumSource
    void aDefinitionThatCannotBeReadDoesNotHoldUpOthers(Db db) throws Exception {
        try (Db.Fresh fresh = db.fresh()) {
            definedByANewerVersion(fresh, 1);
            Brume older = older(fresh);

            assertThat(told.await(20, TimeUnit.SECONDS)).isTrue();
            assertThat(ran.await(20, TimeUnit.SECONDS)).isTrue();
            older.stop(Duration.ofSeconds(10));

            assertThat(problems).anyMatch(text -> text.startsWith("glow goes by a definition that a newer"));
            assertThat(fresh.number("select count(*) from " + fresh.table("brume_ledger") + " l join "
                            + fresh.table("brume_job") + " j on j.id = l.job_id where j.name = 'glow'"))
                    .isZero();
        }
    }

    private static void definedByANewerVersion(Db.Fresh fresh, int format) throws SQLException {
        Brume.on(fresh.store()).instance("newer").build().define(List.of(TIDES, GLOW), "test");
        fresh.withoutGuard("brume_definition");
        fresh.sql("update " + fresh.table("brume_definition") + " set definition = replace(definition, '{\"when\"',"
                + " '{\"colour\":\"green\",\"when\"') where job_id = (select id from " + fresh.table("brume_job")
                + " where name = 'glow')");
        fresh.sql("update " + fresh.table("brume_job") + " set format = " + format + " where name = 'glow'");
    }

    private Brume older(Db.Fresh fresh) {
        Brume older = Brume.on(fresh.store())
                .instance("older")
                .engineListener(event -> {
                    if (event.kind() == Event.Kind.PROBLEM) {
                        problems.add(event.text());
                        told.countDown();
                    }
                })
                .build();
        older.handler("note", run -> ran.countDown());
        older.start();
        return older;
    }
}
