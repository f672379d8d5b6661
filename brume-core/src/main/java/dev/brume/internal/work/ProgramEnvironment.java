package dev.brume.internal.work;

import dev.brume.internal.text.Texts;
import java.util.Map;

/** What a program is given of this process's environment: all but the way into the database. */
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
