package dev.brume;

import java.util.List;
import java.util.Map;
import java.util.Objects;
import java.util.Optional;
import java.util.TreeMap;

/** What a job does when it runs. Implementations are immutable. */
public sealed interface Work {

    /**
     * Runs a program; its standard output and error are captured, its exit code decides.
     *
     * @param command the program and its arguments, at least the program; no shell reads it
     * @param environment variables added to the instance's own
     * @param folder where it runs, the instance's working folder if empty
     */
    record Program(List<String> command, Map<String, String> environment, Optional<String> folder) implements Work {

        /**
         * Creates the work, copying both collections.
         *
         * @throws IllegalArgumentException if the command is empty
         */
        public Program {
            command = List.copyOf(command);
            environment = Map.copyOf(new TreeMap<>(environment));
            Objects.requireNonNull(folder, "folder");
            if (command.isEmpty() || command.get(0).isBlank()) {
                throw new IllegalArgumentException("program: names no program (expected at least one argument)");
            }
        }

        @Override
        public String toString() {
            return String.join(" ", command);
        }
    }

    /**
     * Calls a {@link Handler} that the running instance has registered under a name.
     *
     * @param handler the name
     */
    record Registered(String handler) implements Work {

        /**
         * Creates the work.
         *
         * @throws IllegalArgumentException if the name is blank or over 200 characters
         */
        public Registered {
            if (handler.isBlank() || handler.length() > 200) {
                throw new IllegalArgumentException("handler: '" + handler + "' is not a name (1 to 200 characters)");
            }
        }

        @Override
        public String toString() {
            return "handler " + handler;
        }
    }

    /** Returns the name of the handler an instance needs to do this work, empty if it needs none. */
    default Optional<String> neededHandler() {
        return this instanceof Registered registered ? Optional.of(registered.handler()) : Optional.empty();
    }
}
