package dev.brume.jdbc;

import dev.brume.spi.RequestKey;
import dev.brume.spi.RequestRow;
import dev.brume.spi.RequestSteps;
import java.sql.SQLException;
import java.time.Instant;
import java.util.List;
import java.util.Optional;
import java.util.function.Supplier;

/** The steps on requests that carry a key, in SQL that every database understands. */
final class JdbcRequests implements RequestSteps {
    private static final String OF_KEY = " where principal = ? and namespace = ? and operation = ? and request_key = ?";

    private final Statements sql;
    private final Dialect dialect;
    private final Supplier<Instant> now;

    JdbcRequests(Statements sql, Dialect dialect, Supplier<Instant> now) {
        this.sql = sql;
        this.dialect = dialect;
        this.now = now;
    }

    @Override
    public Optional<RequestRow> begin(RequestKey key, String digest) {
        boolean isNew = sql.addUnlessThere(
                "insert into brume_request (principal, namespace, operation, request_key, digest, begun_at)"
                        + " values (?, ?, ?, ?, ?, ?)" + dialect.unlessThere(),
                key.principal(),
                key.namespace(),
                key.operation(),
                key.key(),
                digest,
                now.get());
        return isNew
                ? Optional.empty()
                : sql.first(
                        "select digest, begun_at, answer, run_id from brume_request" + OF_KEY + " for update",
                        row -> request(key, row),
                        key.principal(),
                        key.namespace(),
                        key.operation(),
                        key.key());
    }

    private static RequestRow request(RequestKey key, Row row) throws SQLException {
        return new RequestRow(
                key,
                row.text("digest"),
                row.instant("begun_at"),
                row.optionalText("answer"),
                Rows.optional(row.optionalNumber("run_id")));
    }

    @Override
    public void done(RequestKey key, String answer, Optional<Long> run) {
        sql.update(
                "update brume_request set answer = ?, run_id = ?" + OF_KEY,
                answer,
                run,
                key.principal(),
                key.namespace(),
                key.operation(),
                key.key());
    }

    @Override
    public int forget(Instant heardBefore, int limit) {
        List<RequestKey> old = sql.query("""
                select q.principal, q.namespace, q.operation, q.request_key
                from brume_request q
                where q.begun_at < ?
                and not exists (select 1 from brume_run r where r.id = q.run_id)
                and not exists (select 1 from brume_ledger l where l.run_id = q.run_id)
                and not exists (select 1 from brume_one_off o where o.id = q.run_id)
                order by q.begun_at
                limit ?""", JdbcRequests::key, heardBefore, limit);
        sql.batch(
                "delete from brume_request" + OF_KEY,
                old,
                (parameters, key) -> parameters.all(key.principal(), key.namespace(), key.operation(), key.key()));
        return old.size();
    }

    private static RequestKey key(Row row) throws SQLException {
        return new RequestKey(
                row.text("principal"), row.text("namespace"), row.text("operation"), row.text("request_key"));
    }
}
