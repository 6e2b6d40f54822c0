package web

import (
	"compress/gzip"

	"github.com/labstack/echo/v5"
	"github.com/labstack/echo/v5/middleware"
)

// routes lists every address, by who may use it.
func (s *Server) routes() {
	s.GET("/static/*", serveStatic)
	s.GET("/worker.js", serveWorker)

	// Pages are made new for each request: a quick pass takes most of the air out.
	compress := middleware.GzipWithConfig(middleware.GzipConfig{Level: gzip.BestSpeed})

	// Everybody. Changes need the token of a form that was served.
	sessions := echo.WrapMiddleware(s.sessions.LoadAndSave)
	public := s.Group("", compress, sessions, s.door.sameSite, s.door.csrf())
	public.GET("/sign-in", s.door.signInPage)
	public.POST("/sign-in", s.door.signIn)
	public.GET("/set-up", s.door.setUpPage)
	public.POST("/set-up", s.door.setUp)
	public.GET("/recover", s.door.recoverPage)
	public.POST("/recover", s.door.recover)

	// A calendar, by the secret in its address.
	s.GET("/calendar/:token", s.roster.calendar, compress)

	// The student, by the secret in the address. What may be sent is what this site
	// itself sends; there is no token that a page left open could outlive.
	student := s.Group("/s/:token", compress, sameOrigin, s.door.byLink)
	student.GET("", s.ownPage.practicePage, s.heavy)
	student.POST("/entries", s.ownPage.logPractice)
	student.POST("/words", s.ownPage.sayWord)
	student.GET("/log", s.ownPage.practiceLog)
	student.POST("/entries/:entry", s.ownPage.mendEntry)
	student.GET("/music/:assignment", s.lessonbook.practiceSound, s.heavy)

	// The teacher, in their own studio. Of what a stranger sends nothing is read.
	t := s.Group("", compress, sessions, s.door.sameSite, s.door.signedIn, filesToDisk, s.door.csrf())
	t.POST("/sign-out", s.door.signOut)
	t.GET("/", s.roster.today)
	t.POST("/example", s.office.addExample)
	t.POST("/example/remove", s.office.removeExample)

	t.GET("/songs", s.songbook.songs)
	t.POST("/songs", s.songbook.addSong)
	t.POST("/songs/preview", s.songbook.previewSheet, s.heavy)
	t.POST("/songs/tap", s.songbook.tapRhythm)
	t.GET("/songs/bring", s.songbook.bringPage)
	t.POST("/songs/bring", s.songbook.bring)
	t.GET("/songs/bring/:thing", s.songbook.broughtPage, s.heavy)
	t.POST("/songs/take-over", s.songbook.takeBrought)
	t.GET("/songs/:song", s.songbook.songPage, s.heavy)
	t.GET("/songs/:song/about", s.songbook.aboutSong)
	t.GET("/songs/:song/take", s.songbook.takeSong, slowly, s.heavy)
	t.POST("/songs/:song", s.songbook.saveSong)
	t.POST("/songs/:song/draft", s.songbook.saveDraft)
	t.POST("/songs/:song/draft/discard", s.songbook.discardDraft)
	t.POST("/songs/:song/draft/use", s.songbook.useDraft)
	t.POST("/songs/:song/typed/:typed", s.songbook.takeTyped)
	t.POST("/songs/:song/delete", s.songbook.deleteSong)
	t.GET("/songs/:song/saves", s.songbook.saves, s.heavy)
	t.GET("/songs/:song/saves/:save", s.songbook.oneSave, s.heavy)
	t.POST("/songs/:song/saves/:save", s.songbook.takeSave)
	t.GET("/songs/:song/rungs", s.songbook.rungs, s.heavy)
	t.POST("/songs/:song/rungs", s.songbook.changeWay, s.heavy)
	t.GET("/songs/:song/music", s.lessonbook.songSound, s.heavy)
	t.GET("/songs/:song/chords", s.songbook.chords, s.heavy)
	t.POST("/songs/:song/chords", s.songbook.chooseVoicing, s.heavy)
	t.POST("/songs/:song/transpose", s.songbook.transposeSong)
	t.POST("/songs/:song/lessons", s.lessonbook.addLesson)
	t.GET("/songs/:song/fit", s.lessonbook.fitPage, s.heavy)
	t.POST("/songs/:song/fit", s.lessonbook.handOut, s.heavy)
	t.POST("/songs/:song/up-to-date", s.lessonbook.bringUpToDate)

	t.GET("/skills", s.roster.series, s.heavy)
	t.GET("/lessons", s.lessonbook.lessons)
	t.GET("/lessons/:lesson", s.lessonbook.lessonPage, s.heavy)
	t.POST("/lessons/:lesson", s.lessonbook.saveLesson, s.heavy)
	t.GET("/lessons/:lesson/music", s.lessonbook.lessonSound, s.heavy)
	t.POST("/lessons/:lesson/steps", s.lessonbook.changeSteps, s.heavy)
	t.POST("/lessons/:lesson/assign", s.lessonbook.assign)
	t.POST("/lessons/:lesson/duplicate", s.lessonbook.duplicate)
	t.POST("/lessons/:lesson/delete", s.lessonbook.deleteLesson)
	t.GET("/lessons/:lesson/take", s.songbook.takeLesson, slowly, s.heavy)
	t.GET("/lessons/:lesson/handout", s.lessonbook.handout, s.heavy)
	t.POST("/lessons/:lesson/handout", s.lessonbook.addCodes)
	t.GET("/handouts", s.lessonbook.handoutsOfDay, s.heavy)
	t.POST("/handouts", s.lessonbook.addCodes)

	t.GET("/timetable", s.roster.timetable)
	t.POST("/timetable", s.roster.changeTimetable)
	t.GET("/timetable/month", s.roster.month)
	t.POST("/calendar", s.roster.setCalendar)

	t.GET("/students", s.roster.students)
	t.POST("/students", s.roster.addStudent)
	t.GET("/students/give", s.roster.giveToGroup)
	t.GET("/students/:student", s.roster.studentPage)
	t.POST("/students/:student", s.roster.saveStudent)
	t.GET("/students/:student/songs", s.roster.shelf, s.heavy)
	t.POST("/students/:student/wishes/:wish", s.roster.answerWish, s.heavy)
	t.GET("/students/:student/year", s.roster.year)
	t.GET("/students/:student/hour", s.roster.hourPage, s.heavy)
	t.POST("/students/:student/hour", s.roster.changeHour, s.heavy)
	t.POST("/students/:student/delete", s.roster.deleteStudent)
	t.POST("/students/:student/calendar", s.roster.setCalendar)
	t.GET("/students/:student/export", s.roster.exportStudent, slowly)
	t.POST("/students/:student/entries/delete", s.roster.deleteEntries)
	t.POST("/students/:student/links", s.roster.addLink)
	t.POST("/students/:student/links/:link/end", s.roster.endLink)
	t.POST("/students/:student/assignments/:assignment/update", s.roster.updateAssignment)
	t.POST("/students/:student/assignments/:assignment/end", s.roster.endAssignment)
	t.POST("/students/:student/assignments/:assignment/resume", s.roster.resumeAssignment)
	t.POST("/students/:student/assignments/:assignment/copy", s.roster.copyAssignment)
	t.POST("/students/:student/entries", s.roster.addEntry)
	t.POST("/students/:student/entries/:entry", s.roster.mendEntry)
	t.POST("/students/:student/entries/:entry/delete", s.roster.deleteEntry)

	t.GET("/find", s.office.find)
	t.POST("/tags/:kind/:id", s.office.setTags)
	t.POST("/archive/:kind/:id", s.office.archive)
	t.GET("/bin", s.office.bin)
	t.POST("/bin/:kind/:id/back", s.office.bringBack)
	t.POST("/bin/:kind/:id/erase", s.office.erase)
	t.POST("/bin/changes/:change/undo", s.office.undoChange)
	t.POST("/bin/changes/:change/forget", s.office.forget)

	t.GET("/desk", s.songbook.desk, s.heavy)
	t.GET("/notation", s.songbook.notation)

	t.GET("/settings", s.office.settings)
	t.POST("/settings", s.office.saveSettings)
	t.POST("/settings/password", s.door.savePassword)
	t.POST("/settings/email", s.door.saveEmail)
	t.GET("/settings/codes", s.door.codesPage)
	t.POST("/settings/codes", s.door.newCodes)
	t.GET("/settings/export", s.office.export, slowly)
	t.GET("/settings/students.csv", s.office.studentsTable)
	t.GET("/settings/lessons.csv", s.office.lessonsTable)
	t.GET("/settings/practice.csv", s.office.practiceTable)
	t.GET("/settings/timetable.ics", s.office.timetable)
	t.POST("/settings/return", s.office.giveBack)
	t.GET("/settings/return/:thing", s.office.returnedPage, s.heavy)
	t.POST("/settings/take-in", s.office.takeIn)
}
