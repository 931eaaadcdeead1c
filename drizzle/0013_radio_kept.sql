CREATE TABLE `radio_kept` (
	`id` text PRIMARY KEY NOT NULL,
	`job_id` text,
	`kind` text NOT NULL,
	`name` text NOT NULL,
	`at` integer NOT NULL,
	`body` text NOT NULL,
	`arrays` blob,
	FOREIGN KEY (`job_id`) REFERENCES `jobs`(`id`) ON UPDATE no action ON DELETE cascade
);
--> statement-breakpoint
CREATE INDEX `radio_kept_of` ON `radio_kept` (`kind`,`job_id`);