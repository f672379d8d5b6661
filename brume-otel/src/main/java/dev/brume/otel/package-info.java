/** Traces of runs, by OpenTelemetry. */
@NullMarked
package dev.brume.otel;

import org.jspecify.annotations.NullMarked;
