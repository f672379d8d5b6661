package dev.brume.internal.work;

import dev.brume.internal.text.Texts;
import java.util.Map;

/** The environment of a program: this process's own, without the variables that lead into the database. */
final class ProgramEnvironment {
    private static final String DATABASE = "BRUME_DATABASE";

    private ProgramEnvironment() {}

    /** Takes out what tells where the database is and how to log in. */
    static void withoutDatabase(Map<String, String> environment) {
        environment
                .entrySet()
                .removeIf(variable -> variable.getKey().equals(DATABASE)
                        || variable.getValue().startsWith("jdbc:")
                                && !Texts.withoutPasswords(variable.getValue()).equals(variable.getValue()));
    }
}
