package dev.brume.port;

import dev.brume.JobKey;

/**
 * A span to be looked at.
 *
 * @param job the job's name
 * @param span the stretch
 */
public record SpanView(JobKey job, Span span) {}
