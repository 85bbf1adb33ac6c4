import { ErrorBoundary } from "react-error-boundary";
import { Route, Switch, useLocation } from "wouter";
import { LargeView } from "../screens/bench/LargeView";
import { CardPage } from "../screens/card/CardPage";
import { Keys } from "../screens/keys/Keys";
import { Sheet } from "../screens/keys/Sheet";
import { Settings } from "../screens/settings/Settings";
import { Shoots } from "../screens/shoots/Shoots";
import { Alerts } from "./Alerts";
import { Failure } from "./Failure";
import { ShootPage } from "./ShootPage";
import { WaitingLine } from "./WaitingMarks";

export function App() {
  const [address] = useLocation();
  return (
    <ErrorBoundary FallbackComponent={Failure} resetKeys={[address]}>
      <div className="flex h-full flex-col">
        <Alerts />
        <div className="min-h-0 flex-1">
          <Pages />
        </div>
      </div>
    </ErrorBoundary>
  );
}

function Pages() {
  return (
    <Switch>
      <Route path="/">
        <div className="flex h-full flex-col">
          <div className="min-h-0 flex-1">
            <Shoots />
          </div>
          <WaitingLine />
        </div>
      </Route>
      <Route path="/card">
        <CardPage />
      </Route>
      <Route path="/keys/sheet">
        <Sheet />
      </Route>
      <Route path="/settings">
        <Settings />
      </Route>
      <Route path="/keys">
        <Keys />
      </Route>
      <Route path="/shoots/:id/large">{({ id }) => <LargeView key={id} shootId={Number(id)} />}</Route>
      <Route path="/shoots/:id/:screen?">
        {({ id, screen }) => <ShootPage key={id} shootId={Number(id)} asked={screen} />}
      </Route>
      <Route>
        <main className="grid h-full place-items-center">
          <p>
            There is no such page. <a href="/">Back to the shoots</a>
          </p>
        </main>
      </Route>
    </Switch>
  );
}
