CREATE TABLE `calibrations` (
	`id` text PRIMARY KEY NOT NULL,
	`channel_id` text NOT NULL,
	`at` integer NOT NULL,
	`body` text NOT NULL
);
--> statement-breakpoint
CREATE TABLE `channels` (
	`id` text PRIMARY KEY NOT NULL,
	`job_id` text NOT NULL,
	`position` integer NOT NULL,
	`name` text NOT NULL,
	`body` text NOT NULL,
	FOREIGN KEY (`job_id`) REFERENCES `jobs`(`id`) ON UPDATE no action ON DELETE cascade
);
--> statement-breakpoint
CREATE UNIQUE INDEX `channel_name_in_job` ON `channels` (`job_id`,`name`);--> statement-breakpoint
CREATE TABLE `jobs` (
	`id` text PRIMARY KEY NOT NULL,
	`name` text NOT NULL,
	`place` text NOT NULL,
	`created_at` integer NOT NULL,
	`current` integer DEFAULT false NOT NULL
);
--> statement-breakpoint
CREATE TABLE `logbook` (
	`id` integer PRIMARY KEY AUTOINCREMENT NOT NULL,
	`at` integer NOT NULL,
	`job_id` text NOT NULL,
	`take_id` text,
	`kind` text NOT NULL,
	`says` text NOT NULL,
	`by` text NOT NULL
);
--> statement-breakpoint
CREATE INDEX `logbook_time` ON `logbook` (`job_id`,`at`);--> statement-breakpoint
CREATE TABLE `plans` (
	`id` text PRIMARY KEY NOT NULL,
	`job_id` text NOT NULL,
	`name` text NOT NULL,
	`body` text NOT NULL,
	FOREIGN KEY (`job_id`) REFERENCES `jobs`(`id`) ON UPDATE no action ON DELETE cascade
);
--> statement-breakpoint
CREATE TABLE `revisions` (
	`id` integer PRIMARY KEY AUTOINCREMENT NOT NULL,
	`at` integer NOT NULL,
	`by` text NOT NULL,
	`job_id` text NOT NULL,
	`kind` text NOT NULL,
	`subject` text NOT NULL,
	`says` text NOT NULL,
	`before` text,
	`after` text,
	`undone` integer DEFAULT false NOT NULL
);
--> statement-breakpoint
CREATE INDEX `revision_subject` ON `revisions` (`kind`,`subject`);--> statement-breakpoint
CREATE TABLE `rules` (
	`id` text PRIMARY KEY NOT NULL,
	`job_id` text NOT NULL,
	`position` integer NOT NULL,
	`body` text NOT NULL,
	FOREIGN KEY (`job_id`) REFERENCES `jobs`(`id`) ON UPDATE no action ON DELETE cascade
);
--> statement-breakpoint
CREATE TABLE `studies` (
	`id` text PRIMARY KEY NOT NULL,
	`job_id` text NOT NULL,
	`take_id` text NOT NULL,
	`position` integer NOT NULL,
	`kind` text NOT NULL,
	`created_at` integer NOT NULL,
	`body` text NOT NULL,
	FOREIGN KEY (`job_id`) REFERENCES `jobs`(`id`) ON UPDATE no action ON DELETE no action,
	FOREIGN KEY (`take_id`) REFERENCES `takes`(`id`) ON UPDATE no action ON DELETE no action
);
--> statement-breakpoint
CREATE TABLE `takes` (
	`id` text PRIMARY KEY NOT NULL,
	`job_id` text NOT NULL,
	`number` integer NOT NULL,
	`name` text NOT NULL,
	`state` text NOT NULL,
	`started_at` integer NOT NULL,
	`duration_ms` integer NOT NULL,
	FOREIGN KEY (`job_id`) REFERENCES `jobs`(`id`) ON UPDATE no action ON DELETE no action
);
--> statement-breakpoint
CREATE TABLE `units` (
	`serial` text PRIMARY KEY NOT NULL,
	`kind` text NOT NULL,
	`name` text NOT NULL
);
