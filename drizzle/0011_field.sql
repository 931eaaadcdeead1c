CREATE TABLE `recorders` (
	`serial` text PRIMARY KEY NOT NULL,
	`seen_at` integer NOT NULL,
	`body` text NOT NULL
);
