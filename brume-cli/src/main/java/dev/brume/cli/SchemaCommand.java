package dev.brume.cli;

import dev.brume.definitions.DefinitionFile;
import dev.brume.jdbc.JdbcStore;
import java.util.concurrent.Callable;
import picocli.CommandLine.Command;
import picocli.CommandLine.Model.CommandSpec;
import picocli.CommandLine.Option;
import picocli.CommandLine.Parameters;
import picocli.CommandLine.Spec;

/** Prints schemas. */
@Command(
        name = "schema",
        mixinStandardHelpOptions = true,
        description =
                "Prints the JSON Schema of definition files, or the SQL that creates the tables, or that gives roles their"
                        + " rights on them.",
        footerHeading = "%nExamples:%n",
        footer = {
            "  brume schema definitions > brume.schema.json",
            "  brume schema postgresql | psql mydb",
            "  brume schema postgresql --application harbour --retention archivist | psql mydb"
        })
final class SchemaCommand implements Callable<Integer> {
    @Parameters(paramLabel = "definitions|postgresql|mariadb|h2", description = "Which schema.")
    private String which;

    @Option(
            names = "--application",
            paramLabel = "ROLE",
            description = "Print the rights of roles: of the one that works, and may only add to the ledger.")
    private String application;

    @Option(
            names = "--retention",
            paramLabel = "ROLE",
            description = "The role that alone may remove lines from the ledger (brume keep --apply).")
    private String retention;

    @Spec
    private CommandSpec spec;

    @Override
    public Integer call() {
        if ((application == null) != (retention == null)) {
            throw new UsageException("--application and --retention go together: a role for each");
        }
        String text;
        try {
            text = application != null
                    ? JdbcStore.rolesScript(which, application, retention)
                    : which.equals("definitions") ? DefinitionFile.schema() : JdbcStore.schemaScript(which);
        } catch (IllegalArgumentException e) {
            throw new UsageException(
                    application != null
                            ? e.getMessage()
                            : "schema '" + which + "' is not one of definitions, postgresql, mariadb, h2");
        }
        spec.commandLine().getOut().print(text);
        spec.commandLine().getOut().flush();
        return ExitCode.OK;
    }
}
