package dev.brume.history;

import dev.brume.JobName;

/**
 * A span to be looked at.
 *
 * @param job the job's name
 * @param span the stretch
 * @since 0.1.0
 */
public record SpanView(JobName job, Span span) {}
