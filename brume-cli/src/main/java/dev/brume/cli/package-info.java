/**
 * The {@code brume} command: thin shells over the engine, the store's history and the schedules.
 *
 * <p>Results go to standard output, messages to standard error; {@link dev.brume.cli.ExitCode} lists the
 * exit codes.
 */
@NullMarked
package dev.brume.cli;

import org.jspecify.annotations.NullMarked;
