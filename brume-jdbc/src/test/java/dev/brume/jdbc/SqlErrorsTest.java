package dev.brume.jdbc;

import static org.assertj.core.api.Assertions.assertThat;

import dev.brume.StoreException;
import dev.brume.StoreException.Trouble;
import java.io.IOException;
import java.sql.SQLException;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.params.ParameterizedTest;
import org.junit.jupiter.params.provider.CsvSource;

class SqlErrorsTest {
    @ParameterizedTest
    @CsvSource({
        "40001, 0, CONFLICT",
        "40P01, 0, CONFLICT",
        "55P03, 0, CONFLICT",
        "23505, 0, CONFLICT",
        "HYT00, 50200, CONFLICT",
        "08006, 0, UNREACHABLE",
        "08001, 0, UNREACHABLE",
        "57P01, 0, UNREACHABLE",
        "28P01, 0, UNREACHABLE",
        "90067, 90067, UNREACHABLE",
        "25006, 0, NOT_WRITABLE",
        "53100, 0, NOT_WRITABLE",
        "42501, 0, NOT_WRITABLE",
        "90097, 90097, NOT_WRITABLE",
        "42P01, 0, SCHEMA",
        "42S02, 42102, SCHEMA",
        "22012, 0, OTHER"
    })
    void theStateSaysWhatKindOfTroubleItIs(String state, int code, Trouble expected) {
        assertThat(SqlErrors.troubleOf(new SQLException("x", state, code))).isEqualTo(expected);
        assertThat(SqlErrors.troubleOf(new RuntimeException(new SQLException("x", state, code))))
                .isEqualTo(expected);
    }

    @Test
    void anErrorWithoutAStateIsOther() {
        assertThat(SqlErrors.troubleOf(new SQLException("x"))).isEqualTo(Trouble.OTHER);
        assertThat(SqlErrors.troubleOf(new IllegalStateException())).isEqualTo(Trouble.OTHER);
    }

    @Test
    void aLostConnectionAtCommitLeavesTheOutcomeOpenAndAConflictDoesNot() {
        assertThat(SqlErrors.wrapCommit("db", new SQLException("gone", "08006")).trouble())
                .isEqualTo(Trouble.COMMIT_UNCLEAR);
        assertThat(SqlErrors.wrapCommit("db", new SQLException("who knows")).trouble())
                .isEqualTo(Trouble.COMMIT_UNCLEAR);
        assertThat(SqlErrors.wrapCommit("db", new SQLException("victim", "40001"))
                        .trouble())
                .isEqualTo(Trouble.CONFLICT);
    }

    @Test
    void theMessageNamesTheDatabaseTheFirstLineAndWhatTheSystemSaid() {
        SQLException error =
                new SQLException("could not write\nmore", "53100", new IOException("No space left on device"));
        StoreException wrapped = SqlErrors.wrap("the database in /data", new Statements.UncheckedSql(error));

        assertThat(wrapped)
                .hasMessage("cannot write to the database in /data: could not write (No space left on device)");
    }
}
