package dev.brume.jdbc;

import java.util.ArrayList;
import java.util.List;
import java.util.Optional;
import java.util.Set;
import java.util.TreeSet;
import java.util.regex.Matcher;
import java.util.regex.Pattern;
import java.util.stream.Stream;

/**
 * The rights of database roles: one that works and adds to the ledger, one that alone may remove from it, and, if it is wanted, one that alone may
 * define what the first runs.
 *
 * <p>Stateless.
 */
final class RolesScript {
    private static final Pattern TABLE = Pattern.compile("create table (?:if not exists )?(brume_\\w+)");
    private static final Pattern ROLE = Pattern.compile("[A-Za-z_][A-Za-z0-9_]{0,62}");

    /** The tables that the working role only reads and adds to. */
    private static final Set<String> ADDED_TO = Set.of(
            "brume_ledger",
            "brume_content",
            "brume_output",
            "brume_past_gate",
            "brume_past_session",
            "brume_span",
            "brume_change",
            "brume_definition",
            "brume_calendar",
            "brume_telling",
            "brume_seal");

    /** The tables that only the defining role writes to; and brume_job, whose rows move as they are planned, gets new ones by defining alone. */
    private static final Set<String> DEFINED = Set.of(
            "brume_allowance",
            "brume_definition",
            "brume_calendar",
            "brume_calendar_use",
            "brume_former_name",
            "brume_source",
            "brume_telling",
            "brume_follow_up",
            "brume_token");

    /** The bounds of what is kept, and what was erased, which retention alone sets; and the table that refuses TRUNCATE, which is nobody's. */
    private static final String KEPT = "brume_keep";

    private static final String ERASED = "brume_erasure";

    private static final String NOBODYS = "brume_no_truncate";

    private static final List<String> REMOVED_FROM = List.of(
            "brume_ledger",
            "brume_content",
            "brume_output",
            "brume_span",
            "brume_one_off",
            "brume_wait",
            "brume_pause",
            "brume_past_gate",
            "brume_past_session",
            "brume_roll_up",
            ERASED);

    private static final List<String> SEQUENCES = List.of("brume_run_number", "brume_fence_number");

    private RolesScript() {}

    static String of(Dialect dialect, String application, Optional<String> definer, String retention) {
        if (dialect == Dialect.H2) {
            throw new IllegalArgumentException(
                    "roles are for postgresql and mariadb: the user who opens an embedded database owns it");
        }
        List<String> lines = new ArrayList<>();
        lines.add("-- The rights of roles, which are there already: " + application + " works, " + retention
                + " alone removes ledger lines"
                + definer.map(role -> ", " + role + " alone defines what is run")
                        .orElse("") + ".");
        if (dialect == Dialect.MARIADB) {
            lines.add("-- Numbers come by the server's own sequence tables, which cannot be named one by one.");
            lines.add(grant("select", "*", application));
            definer.ifPresent(role -> lines.add(grant("select", "*", role)));
        }
        for (String table : tables(dialect)) {
            lines.add(grant(definer.isPresent() ? rightsToRun(table) : rightsToDefine(table), table, application));
            definer.ifPresent(role -> lines.add(grant(rightsToDefine(table), table, role)));
            lines.add(grant("select", table, retention));
        }
        Stream.of(Optional.of(application), definer, Optional.of(retention))
                .flatMap(Optional::stream)
                .forEach(role -> lines.add(grant("select", "brume_schema", role)));
        Stream.of(Optional.of(application), definer)
                .flatMap(Optional::stream)
                .forEach(role -> SEQUENCES.forEach(sequence -> lines.add(
                        dialect == Dialect.POSTGRESQL
                                ? "grant usage on sequence " + sequence + " to " + role + ";"
                                : grant("select, insert", sequence, role))));
        if (dialect == Dialect.POSTGRESQL) {
            List.of(application, retention)
                    .forEach(role -> lines.add(grant("execute", "function brume_months()", role)));
            lines.add(grant("execute", "function brume_add_months(timestamptz, timestamptz)", application));
            lines.add(grant("execute", "function brume_remove_month(timestamptz, boolean)", retention));
            lines.add(grant("execute", "function brume_drop_months(timestamptz)", retention));
        }
        REMOVED_FROM.forEach(table -> lines.add(grant("delete", table, retention)));
        lines.add(grant("insert, update", KEPT, retention));
        lines.add(grant("insert", ERASED, retention));
        lines.add(grant("insert", "brume_feed", retention));
        List.of("brume_change", "brume_seal").forEach(table -> lines.add(grant("insert", table, retention)));
        List.of("brume_seal_head", "brume_feed_head").forEach(table -> lines.add(grant("update", table, retention)));
        return String.join("\n", lines) + "\n";
    }

    private static String rightsToDefine(String table) {
        if (table.equals(KEPT) || table.equals(ERASED)) {
            return "select";
        }
        return ADDED_TO.contains(table) ? "select, insert" : "select, insert, update, delete";
    }

    private static String rightsToRun(String table) {
        if (DEFINED.contains(table)) {
            return "select";
        }
        return table.equals("brume_job") ? "select, update" : rightsToDefine(table);
    }

    static String checked(String role) {
        if (!ROLE.matcher(role).matches()) {
            throw new IllegalArgumentException(
                    "'" + role + "' is not the name of a role (expected letters, digits and '_', at most 63)");
        }
        return role;
    }

    private static String grant(String rights, String table, String role) {
        return "grant " + rights + " on " + table + " to " + role + ";";
    }

    private static Set<String> tables(Dialect dialect) {
        Set<String> tables = new TreeSet<>();
        for (int version = 1; version <= SchemaMigrator.NEWEST; version++) {
            Matcher table = TABLE.matcher(SchemaMigrator.script(dialect, version));
            while (table.find()) {
                tables.add(table.group(1));
            }
        }
        tables.remove(NOBODYS);
        return tables;
    }
}
