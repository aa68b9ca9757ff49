<script lang="ts">
  import Award from '@lucide/svelte/icons/award'
  import BookOpen from '@lucide/svelte/icons/book-open'
  import CalendarDays from '@lucide/svelte/icons/calendar-days'
  import ListTodo from '@lucide/svelte/icons/list-todo'
  import Clapperboard from '@lucide/svelte/icons/clapperboard'
  import Eye from '@lucide/svelte/icons/eye'
  import InboxIcon from '@lucide/svelte/icons/inbox'
  import School from '@lucide/svelte/icons/school'
  import Users from '@lucide/svelte/icons/users'
  import { QueryClient, QueryClientProvider } from '@tanstack/svelte-query'
  import Router from 'svelte-spa-router'
  import active from 'svelte-spa-router/active'
  import { wrap } from 'svelte-spa-router/wrap'
  import Jobs from './lib/jobs/Jobs.svelte'
  import Question from './lib/parts/Question.svelte'
  import Told from './lib/parts/Told.svelte'
  import SignInAgain from './lib/people/SignInAgain.svelte'
  import { session } from './lib/people/session.svelte'
  import Waiting from './lib/students/Waiting.svelte'
  import Clips from './routes/Clips.svelte'
  import Today from './routes/Today.svelte'
  import NotFound from './routes/NotFound.svelte'
  import SignIn from './routes/SignIn.svelte'
  import Account from './routes/Account.svelte'
  import Welcome from './routes/Welcome.svelte'
  import UserRound from '@lucide/svelte/icons/user-round'

  type Screen = Parameters<typeof wrap>[0]['asyncComponent']
  /** A screen that is fetched when it is first opened, so that a phone need not load all of them. */
  const later = (screen: NonNullable<Screen>) => wrap({ asyncComponent: screen })

  const routes = {
    '/': Today,
    '/clips': Clips,
    '/classes': later(() => import('./routes/Classes.svelte')),
    '/classes/:lesson': later(() => import('./routes/ClassPlan.svelte')),
    '/classes/:lesson/run': later(() => import('./routes/ClassRun.svelte')),
    '/curriculum': later(() => import('./routes/Curriculum.svelte')),
    '/rounds': later(() => import('./routes/Rounds.svelte')),
    '/rounds/:round': later(() => import('./routes/RoundLive.svelte')),
    '/bench/:clip': later(() => import('./routes/Bench.svelte')),
    '/bench/:clip/:rep/:checkpoint': later(() => import('./routes/Bench.svelte')),
    '/compare/:lead': later(() => import('./routes/Compare.svelte')),
    '/sheet/:review': later(() => import('./routes/Sheet.svelte')),
    '/account': Account,
    '/people': later(() => import('./routes/People.svelte')),
    '/eye': later(() => import('./routes/Eye.svelte')),
    '/academy': later(() => import('./routes/Academy.svelte')),
    '/grades': later(() => import('./routes/Grades.svelte')),
    '/second/:review': later(() => import('./routes/SecondOpinion.svelte')),
    '/inbox': later(() => import('./routes/Inbox.svelte')),
    '/students': later(() => import('./routes/Students.svelte')),
    '/students/:student': later(() => import('./routes/Student.svelte')),
    '/techniques': later(() => import('./routes/Techniques.svelte')),
    '/techniques/:technique': later(() => import('./routes/Technique.svelte')),
    '/techniques/:technique/edit': later(() => import('./routes/TechniqueEditor.svelte')),
    '*': NotFound,
  }
  const queries = new QueryClient({ defaultOptions: { queries: { retry: 1, staleTime: 2000 } } })
  let failure = $state('')
  let hash = $state(location.hash)
  /** The token of a link that works once, for whoever opens it, signed in or not. */
  const welcome = $derived(/^#\/welcome\/([\w-]+)$/.exec(hash)?.[1])
  session.read().catch((error: unknown) => (failure = String(error instanceof Error ? error.message : error)))
</script>

<svelte:window onhashchange={() => (hash = location.hash)} />
<QueryClientProvider client={queries}>
  {#if failure}
    <p class="notice bad m-6" role="alert">{failure}</p>
  {:else if !session.known}
    <p class="soft p-6">Opening…</p>
  {:else if welcome}
    {#key welcome}<Welcome token={welcome} />{/key}
  {:else if !session.coach}
    <SignIn />
  {:else}
    <div class="flex h-full flex-col">
      <header
        class="flex items-center print:hidden gap-3 px-3 sm:gap-4 sm:px-4 xl:gap-5"
        style="border-bottom: 2px solid var(--ink); height: 44px; flex: none"
      >
        <a href="#/" class="text-xl font-[750] tracking-tight max-sm:hidden">Lacertus</a>
        <nav
          class="flex min-w-0 gap-2.5 overflow-x-auto whitespace-nowrap max-sm:text-[13.5px] sm:gap-4"
          aria-label="Main"
        >
          <a href="#/" use:active={{ path: '/', className: 'here' }}><ListTodo size={16} aria-hidden="true" />Today</a>
          <a href="#/clips" use:active={{ path: '/clips', className: 'here' }}
            ><Clapperboard size={16} aria-hidden="true" />Clips</a
          >
          <a href="#/inbox" use:active={{ path: '/inbox', className: 'here' }}
            ><InboxIcon size={16} aria-hidden="true" />Inbox<Waiting /></a
          >
          <a href="#/students" use:active={{ path: /^\/students/, className: 'here' }}
            ><Users size={16} aria-hidden="true" />Students</a
          >
          <a href="#/classes" use:active={{ path: /^\/(classes|curriculum|rounds)/, className: 'here' }}
            ><CalendarDays size={16} aria-hidden="true" />Classes</a
          >
          <a href="#/techniques" use:active={{ path: /^\/techniques/, className: 'here' }}
            ><BookOpen size={16} aria-hidden="true" />Techniques</a
          >
          <a href="#/eye" use:active={{ path: '/eye', className: 'here' }}><Eye size={16} aria-hidden="true" />Eye</a>
          <a href="#/grades" use:active={{ path: '/grades', className: 'here' }}
            ><Award size={16} aria-hidden="true" />Grades</a
          >
          <a href="#/academy" use:active={{ path: '/academy', className: 'here' }}
            ><School size={16} aria-hidden="true" />Academy</a
          >
        </nav>
        <span class="ml-auto"><Jobs /></span>
        {#if session.isOwner}<a class="hidden text-sm sm:inline" href="#/people" use:active={{ path: '/people' }}
            >People</a
          >{/if}
        <a
          class="inline-flex min-w-0 items-center gap-1 text-sm"
          href="#/account"
          title="{session.coach.name} · {session.coach.academy}"
          ><UserRound size={16} aria-hidden="true" /><span
            class="hidden max-w-56 truncate sm:inline sm:max-xl:hidden xl:max-2xl:max-w-24"
            >{session.coach.name} · {session.coach.academy}</span
          ><span class="sr-only sm:hidden">Your account</span></a
        >
        <button
          class="text-sm whitespace-nowrap underline"
          onclick={() => session.signOut().catch(() => location.reload())}>Sign out</button
        >
      </header>
      <main class="min-h-0 flex-1 overflow-auto">
        {#if session.coach.lacks_second_factor}<Account />{:else}<Router {routes} />{/if}
      </main>
    </div>
    <Question />
    {#if session.lapsed}<SignInAgain />{/if}
    <Told />
  {/if}
</QueryClientProvider>

<style>
  nav a {
    display: inline-flex;
    align-items: center;
    gap: 0.35rem;
    padding: 0.55rem 0;
    border-bottom: 3px solid transparent;
  }
  nav :global(a.here) {
    font-weight: 650;
    border-color: var(--alarm);
  }
  @media (max-width: 640px) {
    nav :global(svg) {
      display: none;
    }
  }
</style>
