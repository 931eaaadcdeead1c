CREATE TABLE `drawings` (
	`id` text PRIMARY KEY NOT NULL,
	`job_id` text NOT NULL,
	`name` text NOT NULL,
	`body` text NOT NULL,
	FOREIGN KEY (`job_id`) REFERENCES `jobs`(`id`) ON UPDATE no action ON DELETE cascade
);
--> statement-breakpoint
CREATE UNIQUE INDEX `drawing_name_in_job` ON `drawings` (`job_id`,`name`);--> statement-breakpoint
CREATE TABLE `series` (
	`id` text PRIMARY KEY NOT NULL,
	`job_id` text NOT NULL,
	`name` text NOT NULL,
	`body` text NOT NULL,
	FOREIGN KEY (`job_id`) REFERENCES `jobs`(`id`) ON UPDATE no action ON DELETE cascade
);
--> statement-breakpoint
CREATE TABLE `series_words` (
	`id` integer PRIMARY KEY AUTOINCREMENT NOT NULL,
	`series_id` text NOT NULL,
	`take_id` text NOT NULL,
	`at` integer NOT NULL,
	`by` text NOT NULL,
	`counts` integer NOT NULL,
	`reason` text NOT NULL,
	FOREIGN KEY (`series_id`) REFERENCES `series`(`id`) ON UPDATE no action ON DELETE cascade
);
--> statement-breakpoint
CREATE INDEX `words_of_series` ON `series_words` (`series_id`);--> statement-breakpoint
CREATE TABLE `strips` (
	`take_id` text NOT NULL,
	`channel` text NOT NULL,
	`content` blob NOT NULL,
	PRIMARY KEY(`take_id`, `channel`),
	FOREIGN KEY (`take_id`) REFERENCES `takes`(`id`) ON UPDATE no action ON DELETE cascade
);
--> statement-breakpoint
ALTER TABLE `jobs` ADD `zone` text DEFAULT '' NOT NULL;--> statement-breakpoint
ALTER TABLE `takes` ADD `about` text;--> statement-breakpoint
ALTER TABLE `takes` ADD `tags` text DEFAULT '[]' NOT NULL;--> statement-breakpoint
ALTER TABLE `takes` ADD `bytes` integer DEFAULT 0 NOT NULL;--> statement-breakpoint
ALTER TABLE `takes` ADD `binned_at` integer;--> statement-breakpoint
ALTER TABLE `takes` ADD `binned_by` text;--> statement-breakpoint
ALTER TABLE `takes` ADD `gone_at` integer;